<script setup lang="ts">
// Takes what was typed at the desk to a unit's sheet for readings by hand, where it can become a reading.
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useLine, useModel } from '../../api/queries'
import PickOne from '../../kit/PickOne.vue'

const props = defineProps<{ volts: string; sort: 'volts_rms' | 'volts_peak'; ohms: string }>()
const router = useRouter()
const { data: line } = useLine()
const models = computed(() => (line.value?.series ?? []).flatMap((s) => s.models))
const model = ref<number | null>(null)
watch(models, (now) => (model.value ||= now[0]?.id ?? null), { immediate: true })
const { data: chosen } = useModel(() => model.value ?? 0)
const unit = ref<number | null>(null)
watch(chosen, (now) => (unit.value = now?.units[0]?.id ?? null), { immediate: true })
const take = () =>
  router.push({ path: `/units/${unit.value}/typed`, query: { [props.sort]: props.volts, load: props.ohms } })
</script>

<template>
  <form class="to" @submit.prevent="take">
    <span class="quiet">Take it to a reading by hand of</span>
    <PickOne v-model="model" bare label="Model" :choices="models.map((m) => ({ value: m.id, label: m.name }))" />
    <PickOne
      v-model="unit"
      bare
      label="Unit"
      :choices="(chosen?.units ?? []).map((u) => ({ value: u.id, label: u.serial }))"
    />
    <a-button html-type="submit" :disabled="!unit">Take it there</a-button>
  </form>
</template>

<style scoped>
.to {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 10px;
  padding-top: 8px;
}
.to :deep(.ant-select) {
  min-width: 150px;
}
</style>
