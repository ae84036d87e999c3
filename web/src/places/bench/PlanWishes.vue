<script setup lang="ts">
// What a plan is made by: modes, order, loading, supply, tones, bursts, dwell.
import { computed } from 'vue'
import type { DefaultsView, GroupView, MethodVersionView, Mode } from '../../api/types'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import { MODE_WORDS } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'
import type { Draft } from './planDraft'

const props = defineProps<{
  draft: Draft
  groups: readonly GroupView[]
  defaults: DefaultsView
  supply: readonly [number, number]
  benches: readonly string[]
  /** Of the lab's own methods. */
  versions?: readonly MethodVersionView[]
  problem?: unknown
}>()
const emit = defineEmits<{ wish: [name: keyof Draft, value: Draft[keyof Draft]] }>()
const MODES: Mode[] = ['certified', 'uncertified', 'burst', 'proof']
const ORDERS = [
  { value: 'by_load', label: 'All modes of one load first' },
  { value: 'by_mode', label: 'All loads of one mode first' },
] as const
const LOADINGS = [
  { value: 'each', label: 'A load on every channel' },
  { value: 'pairs', label: 'Bridged pairs, 2R for R' },
] as const
const DWELLS = [
  { value: 'standard', label: 'The method’s own' },
  { value: 'long', label: 'Long, 30 s' },
  { value: 'soak', label: 'Soak, 5 min' },
] as const
const standing = computed(() => props.versions?.filter((one) => one.in_use) ?? [])
/** What may be planned under: the lab's own that are approved, and what ships where the lab has no “Standard”. */
const methods = computed(() => {
  const own = standing.value.map((one) => ({ value: one.name, label: one.title }))
  if (!own.length || own.some((one) => one.value === 'Standard')) return own
  return [{ value: 'Standard', label: 'Standard, as it ships' }, ...own]
})
/** The lab's own, if it is one of those. */
const method = computed(() => standing.value.find((one) => one.name === (props.draft.method ?? 'Standard')))
const limit = computed(() => method.value?.thd_n_limit_percent ?? props.defaults.thd_n_limit_percent)
const toneOf = (g: GroupView) => (g.bass ? method.value?.bass_tone_hz : method.value?.full_range_tone_hz) ?? g.tone_hz
const burstOf = (g: GroupView) => (g.bass ? method.value?.burst_bass : method.value?.burst_full_range) ?? g.burst
const policies = computed(() => [
  { value: 'held' as const, label: 'Held at a voltage' },
  { value: 'bank' as const, label: 'Floating bank' },
  { value: 'three_points' as const, label: `${props.defaults.three_points.join(', ')} V` },
])
const bursts = computed(() => props.defaults.bursts.map((name) => ({ value: name, label: name })))
const says = (field: string) => saysOf(props.problem, field)

function toggle(mode: Mode) {
  const chosen = props.draft.modes.includes(mode)
    ? props.draft.modes.filter((m) => m !== mode)
    : MODES.filter((m) => m === mode || props.draft.modes.includes(m))
  emit('wish', 'modes', chosen)
}
/** What is typed is a wish once it can be one; until then the field says what is wrong, and the plan stays. */
function wish<K extends keyof Draft>(name: K, value: Draft[K] | null) {
  if (value !== null && value !== props.draft[name]) emit('wish', name, value)
}
function wishTone(group: string, hz: number | null) {
  if (hz !== null) emit('wish', 'tones', { ...props.draft.tones, [group]: hz })
}
</script>

<template>
  <form class="wishes" aria-label="What the plan is made by" @submit.prevent>
    <fieldset>
      <legend>Modes</legend>
      <label v-for="mode in MODES" :key="mode" class="check">
        <input type="checkbox" :checked="draft.modes.includes(mode)" @change="toggle(mode)" />
        <ModeMark :mode="mode" named /> {{ MODE_WORDS[mode] }}
      </label>
    </fieldset>
    <PickOne
      v-if="benches.length > 1"
      label="Bench"
      :choices="benches.map((name) => ({ value: name, label: name }))"
      :model-value="draft.bench ?? benches[0]!"
      @update:model-value="wish('bench', $event)"
    />
    <PickOne label="Order" :choices="ORDERS" :model-value="draft.order" @update:model-value="wish('order', $event)" />
    <PickOne
      v-if="groups.some((g) => g.bridged_loads.length)"
      label="Loads"
      :choices="LOADINGS"
      :model-value="draft.loading"
      @update:model-value="wish('loading', $event)"
    />
    <PickOne
      label="Supply"
      :choices="policies"
      :model-value="draft.policy"
      @update:model-value="wish('policy', $event)"
    />
    <NumberField
      v-if="draft.policy === 'held'"
      label="Held at"
      unit="V"
      required
      :min="supply[0]"
      :max="supply[1]"
      :model-value="draft.held_volts ?? method?.reference_volts ?? defaults.supply_volts"
      :problem="says('supply_volts')"
      @update:model-value="wish('held_volts', $event ?? null)"
    />
    <template v-for="g in groups" :key="g.name">
      <NumberField
        :label="`Tone, ${g.name}`"
        unit="Hz"
        required
        :min="10"
        :max="20000"
        :model-value="draft.tones[g.name] ?? toneOf(g)"
        :problem="says(`tones.${g.name}`)"
        @update:model-value="wishTone(g.name, $event ?? null)"
      />
      <PickOne
        v-if="draft.modes.includes('burst')"
        :label="`Burst, ${g.name}`"
        :choices="bursts"
        :model-value="draft.bursts[g.name] ?? burstOf(g)"
        @update:model-value="wish('bursts', $event === null ? null : { ...draft.bursts, [g.name]: $event })"
      />
    </template>
    <PickOne
      v-if="methods.length"
      label="Method"
      :choices="methods"
      :model-value="draft.method ?? 'Standard'"
      @update:model-value="emit('wish', 'method', !$event || $event === 'Standard' ? null : $event)"
    />
    <PickOne
      label="Dwell"
      :choices="DWELLS"
      :model-value="draft.dwell"
      @update:model-value="wish('dwell', $event ?? null)"
    />
    <NumberField
      label="THD+N limit"
      unit="%"
      required
      :min="0.01"
      :max="10"
      :model-value="draft.thd_n_limit ?? limit"
      :problem="says('thd_n_limit')"
      @update:model-value="wish('thd_n_limit', $event ?? null)"
    />
    <label class="check wide">
      <input type="checkbox" :checked="draft.exploratory" @change="emit('wish', 'exploratory', !draft.exploratory)" />
      Explore below the rated load: burst only, not evidence
    </label>
  </form>
</template>

<style scoped>
.wishes {
  display: grid;
  gap: 9px;
}
fieldset {
  border: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 3px;
}
legend {
  padding: 0;
  font-size: 13px;
  color: var(--ink-2);
}
.check {
  display: flex;
  gap: 8px;
  align-items: center;
}
.check input {
  accent-color: var(--certified);
}
.wide {
  align-items: baseline;
  font-size: 14px;
  line-height: 1.3;
}
</style>
