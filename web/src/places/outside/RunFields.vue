<script setup lang="ts">
// Which run a reading from outside is of, field by field: nothing of it is filed that does not stand here.
import { computed, watch } from 'vue'
import type { DefaultsView, GroupView } from '../../api/types'
import DateField from '../../kit/DateField.vue'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import { endsOf, MODES, MODES_AND_PROOF, POLICIES, groupOf, placesRead } from './outsideRun'
import type { OutsideRun } from './outsideRun'

const props = defineProps<{
  groups: readonly GroupView[]
  defaults: DefaultsView
  problem?: unknown
  /** A recording tells the tone by itself. */
  toneFound?: boolean
  /** A proof may have been read, too: it holds a level and looks for none. */
  proofs?: boolean
}>()
const sheet = defineModel<OutsideRun>({ required: true })
const group = computed(() => groupOf(sheet.value, props.groups))
const names = computed(() => props.groups.map((g) => ({ value: g.name, label: g.name })))
const bursts = computed(() => props.defaults.bursts.map((name) => ({ value: name, label: name })))
const says = (field: string) => saysOf(props.problem, field) || saysOf(props.problem, `run.${field}`)

// An end that the mode does not have is not kept behind another one.
watch(
  () => sheet.value.mode,
  (mode) => {
    if (!endsOf(mode).some(({ value }) => value === sheet.value.end)) sheet.value.end = null
  },
)

// What the method proposes for a group is put into the fields, to be seen and changed.
watch(
  group,
  (now, before) => {
    if (!now) return
    if (sheet.value.tone === null || sheet.value.tone === before?.tone_hz) sheet.value.tone = now.tone_hz
    if (sheet.value.burst === null || sheet.value.burst === before?.burst) sheet.value.burst = now.burst
  },
  { immediate: true },
)
</script>

<template>
  <fieldset>
    <legend>Run</legend>
    <PickOne v-model="sheet.mode" label="Mode" :choices="proofs ? MODES_AND_PROOF : MODES" />
    <PickOne v-if="groups.length > 1" v-model="sheet.group" label="Group" :choices="names" :placeholder="group?.name" />
    <NumberField v-model="sheet.load" label="Load" unit="Ω" required :min="0.1" :problem="says('load_ohms')" />
    <NumberField
      v-model="sheet.load_measured"
      label="Load, measured"
      unit="Ω"
      :min="0.1"
      :problem="says('load_measured')"
    />
    <NumberField
      v-if="!toneFound"
      v-model="sheet.tone"
      label="Tone"
      unit="Hz"
      required
      :min="1"
      :problem="says('tone_hz')"
    />
    <PickOne v-if="sheet.mode === 'burst'" v-model="sheet.burst" label="Burst" :choices="bursts" />
    <NumberField
      v-if="sheet.mode === 'proof'"
      v-model="sheet.hold_watts"
      label="To hold, each channel"
      unit="W"
      required
      :min="0.1"
      :problem="says('watts')"
    />
    <PickOne v-model="sheet.policy" label="Supply" :choices="POLICIES" />
    <NumberField
      v-if="sheet.policy !== 'bank'"
      v-model="sheet.held_volts"
      label="Held at"
      unit="V"
      required
      :min="1"
      :problem="says('supply_volts')"
    />
    <PickOne v-model="sheet.end" label="How it ended" :choices="endsOf(sheet.mode)" placeholder="say how" />
    <DateField v-model="sheet.read_on" label="Read on" placeholder="today" :problem="says('read_on')" />
    <a-checkbox
      v-if="placesRead({ ...sheet, bridged: true }, group).length"
      v-model:checked="sheet.bridged"
      class="check"
      >bridged pairs</a-checkbox
    >
  </fieldset>
</template>
