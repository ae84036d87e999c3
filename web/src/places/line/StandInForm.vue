<script setup lang="ts">
// Which simulated amplifier stands in for a model on a simulated bench: one that ships, or one that is described.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import client, { answered } from '../../api/client'
import type { ModelView } from '../../api/types'
import { useAct } from '../../kit/act'
import FormDialog from '../../kit/FormDialog.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'

const props = defineProps<{ open: boolean; model: ModelView }>()
const emit = defineEmits<{ close: [] }>()
const DESCRIBED = 'described'
const { data: standIns } = useQuery({
  queryKey: ['stand-ins'],
  queryFn: () => answered(client.GET('/api/stand-ins')),
  staleTime: Infinity,
})
const channels = computed(() => props.model.groups.flatMap((group) => group.channels).length)
const fitting = computed(() => standIns.value?.filter((one) => one.channels === channels.value) ?? [])
const choices = computed(() => [
  { value: '', label: 'None' },
  ...fitting.value.map((one) => ({
    value: one.name,
    label: `${one.name}, ${one.channels} channels, class ${one.topology}`,
  })),
  { value: DESCRIBED, label: 'One that you describe' },
])
const design = ref<string | null>('')
const described = ref('')
watch(
  () => props.open,
  (open) => {
    if (!open) return
    described.value = props.model.stand_in_described
    design.value = described.value ? DESCRIBED : props.model.stand_in
    forget()
  },
  { immediate: true },
)
const { act, pending, problem, forget } = useAct(
  () => {
    const own = design.value === DESCRIBED
    const body = { design: own ? '' : (design.value ?? ''), described: own ? described.value : '' }
    return answered(
      client.PUT('/api/models/{model_id}/stand-in', { params: { path: { model_id: props.model.id } }, body }),
    )
  },
  { done: () => emit('close') },
)
const says = (field: string) => saysOf(problem.value, field)
</script>

<template>
  <FormDialog
    :open="open"
    title="A simulated stand-in"
    act="Keep it"
    :hint="`On a simulated bench it takes the place of ${model.name}, to try plans and to practise. What it gives is marked “simulated” everywhere and never backs a published rating.`"
    :ready="design !== DESCRIBED || !!described.trim()"
    :pending="pending"
    :problem="problem"
    :width="640"
    @done="act"
    @cancel="emit('close')"
  >
    <PickOne v-model="design" label="Stand-in" :choices="choices" :problem="says('design')" />
    <label v-if="design === DESCRIBED" class="described">
      Its description (TOML, as <code>rulvek simulate --example</code> prints one)
      <a-textarea v-model:value="described" :rows="12" :maxlength="20000" spellcheck="false" />
    </label>
  </FormDialog>
</template>

<style scoped>
.described {
  display: grid;
  gap: 4px;
  margin-top: 12px;
  font-size: 14px;
}
.described textarea {
  font-family: 'JetBrains Mono Variable', monospace;
  font-size: 13px;
}
</style>
