<script setup lang="ts">
// What was read and heard in a vehicle: sound pressure, power at a speaker's wire, better or worse than which unit.
import { API } from '../../kit/base'
import { computed, ref } from 'vue'
import { LISTENING } from '../../api/kept'
import type { FileView, ListeningView, WireView } from '../../api/kept'
import client, { answered } from '../../api/client'
import { sendFile } from '../../api/send'
import type { UnitRow } from '../../api/types'
import { useAct } from '../../kit/act'
import AreaField from '../../kit/AreaField.vue'
import DateField from '../../kit/DateField.vue'
import FileButton from '../../kit/FileButton.vue'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import RowsField from '../../kit/RowsField.vue'
import TextField from '../../kit/TextField.vue'
import { figure } from '../../kit/quantity'
import { numbersOf, wrongOf } from '../line/lineEntry'
import { EAR_PROTECTION } from './words'
import KeptDialog from './KeptDialog.vue'
import { useKeptForm } from './useKeptForm'

type Entry = ListeningView['entry']
const props = defineProps<{ unit: number; siblings: readonly UnitRow[]; kept?: ListeningView | null }>()
const emit = defineEmits<{ close: [] }>()
const METER = { meter: '', decibels: '' }
const COMPARED = {
  than_unit: null as number | null,
  verdict: 'better' as Entry['comparisons'][number]['verdict'],
  remark: '',
}
const BLANK = {
  on: null as string | null,
  source: '',
  engine: 'engine off' as Entry['engine'],
  supply_volts: null as number | null,
  hours: null as number | null,
  tone_hz: null as number | null,
  sensor: '',
  doors_open: false,
  meters: [] as (typeof METER)[],
  volts: null as number | null,
  amps: null as number | null,
  wire_hz: null as number | null,
  phase: null as number | null,
  watts: null as number | null,
  recording: null as string | null,
  comparisons: [] as (typeof COMPARED)[],
  remarks: '',
}
const ENGINES = [
  { value: 'engine off', label: 'engine off' },
  { value: 'engine running', label: 'engine running' },
] as const
const VERDICTS = (['better', 'alike', 'worse'] as const).map((value) => ({ value, label: value }))
const others = computed(() =>
  props.siblings.filter((one) => one.id !== props.unit).map((one) => ({ value: one.id, label: one.serial })),
)
const readings = (text: string): number[] => {
  const found = numbersOf(text.replace(/dB/gi, ''))
  return 'values' in found ? found.values : []
}
const form = useKeptForm(
  {
    kind: LISTENING,
    of: props.unit,
    kept: props.kept,
    blank: BLANK,
    toDraft: (entry): typeof BLANK => ({
      ...BLANK,
      on: entry.on,
      source: entry.source,
      engine: entry.engine,
      supply_volts: entry.supply_volts ?? null,
      hours: entry.hours ?? null,
      tone_hz: entry.sound?.tone_hz ?? null,
      sensor: entry.sound?.sensor ?? '',
      doors_open: entry.sound?.doors_open ?? false,
      meters: (entry.sound?.meters ?? []).map((one) => ({ meter: one.meter, decibels: one.decibels.join(' ') })),
      volts: entry.wire?.volts ?? null,
      amps: entry.wire?.amps ?? null,
      wire_hz: entry.wire?.tone_hz ?? null,
      phase: entry.wire?.phase_degrees ?? null,
      watts: entry.wire?.watts ?? null,
      recording: entry.wire?.recording ?? null,
      comparisons: entry.comparisons.map((one) => ({ ...one })),
      remarks: entry.remarks,
    }),
    toEntry: (d): Entry => ({
      on: d.on ?? '',
      source: d.source,
      engine: d.engine,
      supply_volts: d.supply_volts,
      hours: d.hours,
      sound: d.meters.length
        ? {
            sensor: d.sensor,
            doors_open: d.doors_open,
            tone_hz: d.tone_hz,
            meters: d.meters.map((one) => ({ meter: one.meter, decibels: readings(one.decibels) })),
          }
        : null,
      wire:
        d.volts !== null && d.amps !== null
          ? {
              volts: d.volts,
              amps: d.amps,
              tone_hz: d.wire_hz,
              phase_degrees: d.phase,
              watts: d.watts,
              recording: d.recording,
            }
          : null,
      comparisons: d.comparisons
        .filter((one) => one.than_unit !== null)
        .map((one) => ({ ...one, than_unit: one.than_unit! })),
      remarks: d.remarks,
    }),
  },
  () => emit('close'),
)
const { draft, says } = form
const missing = computed(() => {
  if (!draft.value.on) return 'Say on which day it was.'
  if (draft.value.meters.some((one) => wrongOf(one.decibels.replace(/dB/gi, '')))) return 'A level cannot be read.'
  return ''
})

const scales = ref({ volts: 40 as number | null, amps: 20 as number | null })
const read = ref<WireView | null>(null)
const reads = useAct(
  async (file: File) => {
    const sent = await sendFile<FileView>(`${API}/files`, file, file.name, () => {}).done
    return answered(
      client.POST('/api/speaker-wire', {
        body: { recording: sent.sha256, volts_each: scales.value.volts ?? 0, amps_each: scales.value.amps ?? 0 },
      }),
    )
  },
  {
    takesLong: true,
    done: (found) => {
      read.value = found
      Object.assign(draft.value, {
        volts: found.volts,
        amps: found.amps,
        wire_hz: found.tone_hz,
        phase: found.phase_degrees,
        watts: found.watts,
        recording: found.recording,
      })
    },
  },
)
</script>

<template>
  <KeptDialog
    :form="form"
    :title="kept ? 'Change the listening record' : 'Listening, or in a vehicle'"
    :act="kept ? 'Keep the change' : 'Keep it'"
    :hint="missing || 'A record, never evidence for a rating.'"
    :ready="!missing"
    :width="820"
    @close="emit('close')"
  >
    <p class="wide caution" role="note">{{ EAR_PROTECTION }}</p>
    <DateField v-model="draft.on" label="On" :problem="says('on')" />
    <TextField v-model="draft.source" label="What played" :max="200" placeholder="Music, three pieces" />
    <PickOne v-model="draft.engine" label="Supply" :choices="ENGINES" spread />
    <NumberField v-model="draft.supply_volts" label="At the terminals" unit="V" :problem="says('supply_volts')" />
    <NumberField v-model="draft.hours" label="For" unit="hours" :min="0" :problem="says('hours')" />
    <span />
    <RowsField v-model="draft.meters" class="wide" label="Sound pressure" :blank="METER" add="Add a meter" :most="4">
      <template #default="{ row, at }">
        <TextField v-model="row.meter" label="Meter" :max="80" />
        <TextField
          v-model="row.decibels"
          label="Levels of all repeats, dB"
          placeholder="128.41 128.97"
          :problem="wrongOf(row.decibels.replace(/dB/gi, '')) || says(`sound.meters.${at}.decibels`)"
        />
      </template>
    </RowsField>
    <template v-if="draft.meters.length">
      <TextField
        v-model="draft.sensor"
        label="Where the sensor was"
        placeholder="driver’s head rest"
        :max="200"
        :problem="says('sound.sensor')"
      />
      <NumberField v-model="draft.tone_hz" label="Tone; empty for music" unit="Hz" :problem="says('sound.tone_hz')" />
      <a-checkbox v-model:checked="draft.doors_open" class="wide check">doors open</a-checkbox>
    </template>
    <h3 class="wide">At the speaker’s wire</h3>
    <NumberField v-model="draft.volts" label="Volts" unit="V rms" :problem="says('wire.volts')" />
    <NumberField v-model="draft.amps" label="Amps" unit="A rms" :problem="says('wire.amps')" />
    <div class="wide wire">
      <NumberField v-model="scales.volts" label="Full scale, first channel" unit="V" />
      <NumberField v-model="scales.amps" label="Full scale, second channel" unit="A" />
      <div>
        <FileButton
          label="Read a recording of both"
          accept=".wav,audio/wav"
          :disabled="reads.pending.value"
          @files="reads.act($event[0]!)"
        />
        <span class="quiet hint">WAV, two channels, at most 20&nbsp;s</span>
      </div>
    </div>
    <ProblemNote v-if="reads.problem.value" class="wide" :error="reads.problem.value" />
    <p v-if="read" class="wide" role="status">
      |Z| {{ figure(read.load.impedance_ohms, 2) }} Ω, {{ figure(read.watts, 1) }} W real of
      {{ figure(read.load.volt_amps, 1) }} VA<template v-if="read.phase_degrees !== null"
        >, {{ figure(read.phase_degrees, 1) }}° at {{ figure(read.tone_hz, 1) }} Hz</template
      ><template v-else>; music, so there is no one phase</template>.
    </p>
    <RowsField
      v-model="draft.comparisons"
      class="wide"
      label="To the ear"
      :blank="COMPARED"
      add="Compare with another unit"
      :most="12"
    >
      <template #default="{ row, at }">
        <PickOne v-model="row.verdict" label="It is" :choices="VERDICTS" />
        <PickOne v-model="row.than_unit" label="than (or as)" :choices="others" placeholder="unit" />
        <TextField v-model="row.remark" label="In what" :max="200" :problem="says(`comparisons.${at}.than_unit`)" />
      </template>
    </RowsField>
    <AreaField v-model="draft.remarks" class="wide" label="Remarks" :problem="says('remarks')" />
  </KeptDialog>
</template>

<style scoped>
h3 {
  margin-top: 8px;
  font-size: 14px;
}
.wire {
  display: grid;
  grid-template-columns: 1fr 1fr 2fr;
  gap: 8px 16px;
  align-items: end;
  font-size: 14px;
}
.hint {
  display: block;
  margin-top: 4px;
}
</style>
