<script setup lang="ts">
// The conditions of one run, to change or to add.
import { computed, reactive } from 'vue'
import type { DefaultsView, GroupView, RunIn } from '../../api/types'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'

const props = defineProps<{ spec: RunIn; groups: readonly GroupView[]; defaults: DefaultsView; act: string }>()
const emit = defineEmits<{ done: [run: RunIn]; cancel: [] }>()
const MODES = [
  { value: 'certified', label: 'Certified' },
  { value: 'uncertified', label: 'Uncertified' },
  { value: 'burst', label: 'Burst' },
  { value: 'proof', label: 'Proof' },
] as const
type Typed = { [K in keyof Required<RunIn>]: Required<RunIn>[K] | null }
const run = reactive<Typed>({
  ...props.spec,
  bridged: props.spec.bridged ?? false,
  burst: props.spec.burst ?? '',
  watts: props.spec.watts ?? null,
})
const group = computed(() => props.groups.find((g) => g.name === run.group))
const canBridge = computed(() => !!group.value?.pairs.length)
const ready = computed(
  () =>
    run.load_ohms !== null &&
    run.tone_hz !== null &&
    run.supply_volts !== null &&
    (run.mode !== 'proof' || run.watts !== null),
)

/** Take the run over as it stands; whether it could be. */
function done(): boolean {
  if (!ready.value) return false
  const bridged = !!run.bridged && canBridge.value
  const burst = run.mode === 'burst' ? run.burst || group.value?.burst || '' : ''
  const held = run.mode === 'proof' ? run.watts : null
  emit('done', { ...(run as Required<RunIn>), bridged, burst, watts: held })
  return true
}
defineExpose({ done })
</script>

<template>
  <form class="editor" @submit.prevent="done" @keydown.esc.stop="emit('cancel')">
    <PickOne v-model="run.mode" label="Mode" :choices="MODES" />
    <PickOne v-model="run.group" label="Group" :choices="groups.map((g) => ({ value: g.name, label: g.name }))" />
    <NumberField v-model="run.load_ohms" label="Load" unit="Ω" required :min="0.1" :max="100" />
    <label v-if="canBridge" class="check"> <input v-model="run.bridged" type="checkbox" /> bridged </label>
    <NumberField
      v-if="run.mode !== 'burst'"
      v-model="run.tone_hz"
      label="Tone"
      unit="Hz"
      required
      :min="10"
      :max="20000"
    />
    <PickOne
      v-else
      v-model="run.burst"
      label="Burst"
      :choices="defaults.bursts.map((name) => ({ value: name, label: name }))"
    />
    <NumberField v-if="run.mode === 'proof'" v-model="run.watts" label="To hold" unit="W" required :min="0.1" />
    <NumberField v-model="run.supply_volts" label="Supply" unit="V" required :min="1" :max="20" />
    <div class="acts">
      <a-button html-type="submit" type="primary" :disabled="!ready">{{ act }}</a-button>
      <a-button @click="emit('cancel')">Leave it</a-button>
    </div>
  </form>
</template>

<style scoped>
.editor {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: flex-end;
}
.editor :deep(.number-field) {
  width: 104px;
}
.editor :deep(.ant-select) {
  min-width: 124px;
}
.check {
  font-size: 14px;
  min-height: 34px;
  display: flex;
  gap: 6px;
  align-items: center;
}
.check input {
  accent-color: var(--certified);
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
