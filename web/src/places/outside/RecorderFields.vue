<script setup lang="ts">
// What no column of a recorded file tells: the recorder, the supply, and how the unit stood.
import NumberField from '../../kit/NumberField.vue'
import { saysOf } from '../../kit/problem'
import TextField from '../../kit/TextField.vue'
import ConditionFields from './ConditionFields.vue'
import type { RecordingDraft } from './recordingDraft'

const sheet = defineModel<RecordingDraft>({ required: true })
const { problem } = defineProps<{ problem: unknown }>()
const says = (field: string) => saysOf(problem, field)
</script>

<template>
  <fieldset>
    <legend>What no column tells</legend>
    <TextField v-model="sheet.instrument" class="name" label="Recorded with" :max="120" :problem="says('instrument')" />
    <NumberField
      v-model="sheet.accuracy"
      label="Its limits, ± of volts"
      unit="%"
      required
      :min="0"
      :problem="says('accuracy_percent')"
    />
    <NumberField v-model="sheet.start_volts" label="Supply before" unit="V" :min="1" :problem="says('start_volts')" />
    <NumberField v-model="sheet.loaded_volts" label="Loaded" unit="V" :min="1" :problem="says('loaded_volts')" />
    <NumberField v-model="sheet.amps" label="Current" unit="A" :min="0" :problem="says('amps')" />
    <ConditionFields v-model="sheet" />
  </fieldset>
</template>
