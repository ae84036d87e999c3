<script setup lang="ts">
// Takes what was typed at the desk to a unit's quick sheet, where it can become a reading.
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useLine, useModel } from '../../api/queries'

const props = defineProps<{ volts: string; sort: 'volts_rms' | 'volts_peak'; ohms: string }>()
const router = useRouter()
const { data: line } = useLine()
const models = computed(() => (line.value?.series ?? []).flatMap((s) => s.models))
const model = ref(0)
watch(models, (now) => (model.value ||= now[0]?.id ?? 0), { immediate: true })
const { data: chosen } = useModel(model)
const unit = ref(0)
watch(chosen, (now) => (unit.value = now?.units[0]?.id ?? 0), { immediate: true })
const take = () =>
  router.push({ path: `/units/${unit.value}/typed`, query: { [props.sort]: props.volts, load: props.ohms } })
</script>

<template>
  <form class="to" @submit.prevent="take">
    <span class="quiet">Take it to the quick sheet of</span>
    <select v-model="model" aria-label="Model">
      <option v-for="m in models" :key="m.id" :value="m.id">{{ m.name }}</option>
    </select>
    <select v-model="unit" aria-label="Unit">
      <option v-for="u in chosen?.units" :key="u.id" :value="u.id">{{ u.serial }}</option>
    </select>
    <a-button html-type="submit" :disabled="!unit">Take it there</a-button>
  </form>
</template>

<style scoped>
.to {
  display: flex;
  align-items: center;
  gap: 10px;
  padding-top: 8px;
}
select {
  width: auto;
}
</style>
