<script setup lang="ts">
// What was found inside of a unit: first that it was safe to reach in, then parts by place, and which fuses carry current.
import { INSIDES } from '../../api/kept'
import type { InsideView } from '../../api/kept'
import AreaField from '../../kit/AreaField.vue'
import DateField from '../../kit/DateField.vue'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import RowsField from '../../kit/RowsField.vue'
import TextField from '../../kit/TextField.vue'
import { numbersOf } from '../line/lineEntry'
import { PART_PLACES, SAFE_TO_OPEN } from './words'
import KeptDialog from './KeptDialog.vue'
import { useKeptForm } from './useKeptForm'

type Entry = InsideView['entry']
type Part = Entry['parts'][number]
const props = defineProps<{ unit: number; kept?: InsideView | null }>()
const emit = defineEmits<{ close: [] }>()
interface PartDraft {
  place: Part['place']
  count: number | null
  value: string
  volts: number | null
  celsius: number | null
  mark: string
  channels: string
}
interface FuseDraft {
  amps: number | null
  in_circuit: boolean
  remark: string
}
const PART: PartDraft = {
  place: 'output device',
  count: 1,
  value: '',
  volts: null,
  celsius: null,
  mark: '',
  channels: '',
}
const FUSE: FuseDraft = { amps: null, in_circuit: true, remark: '' }
const BLANK = {
  made_safe: false,
  opened_on: null as string | null,
  board_revision: '',
  parts: [] as PartDraft[],
  fuses: [] as FuseDraft[],
  fan: 'unknown' as 'unknown' | 'yes' | 'no',
  remarks: '',
}
const FAN = [
  { value: 'unknown', label: 'not seen' },
  { value: 'yes', label: 'ran' },
  { value: 'no', label: 'did not run' },
] as const
const channels = (text: string): number[] => {
  const found = numbersOf(text)
  return 'values' in found ? found.values : []
}
const form = useKeptForm(
  {
    kind: INSIDES,
    of: props.unit,
    kept: props.kept,
    blank: BLANK,
    toDraft: (entry): typeof BLANK => ({
      ...BLANK,
      made_safe: entry.made_safe,
      opened_on: entry.opened_on ?? null,
      board_revision: entry.board_revision,
      parts: entry.parts.map((part) => ({
        ...PART,
        ...part,
        volts: part.volts ?? null,
        celsius: part.celsius ?? null,
        channels: part.channels.join(' '),
      })),
      fuses: entry.fuses.map((fuse) => ({ ...FUSE, ...fuse })),
      fan: entry.fan_ran === true ? 'yes' : entry.fan_ran === false ? 'no' : 'unknown',
      remarks: entry.remarks,
    }),
    toEntry: ({ fan, parts, fuses, ...rest }): Entry => ({
      ...rest,
      fan_ran: fan === 'unknown' ? null : fan === 'yes',
      parts: parts.map((part) => ({ ...part, count: part.count ?? 1, channels: channels(part.channels) })),
      fuses: fuses.map((fuse) => ({ ...fuse, amps: fuse.amps ?? 0 })),
    }),
  },
  () => emit('close'),
)
const { draft, says } = form
</script>

<template>
  <KeptDialog
    :form="form"
    :title="kept ? 'Change what was found inside' : 'What is inside'"
    :act="kept ? 'Keep the change' : 'Keep it'"
    :ready="draft.made_safe"
    :width="860"
    @close="emit('close')"
  >
    <p class="wide caution" role="note">{{ SAFE_TO_OPEN }}</p>
    <a-checkbox v-model:checked="draft.made_safe" class="wide check"
      >It was disconnected, its capacitors were discharged and measured before it was opened</a-checkbox
    >
    <DateField v-model="draft.opened_on" label="Opened on" placeholder="today" :problem="says('opened_on')" />
    <TextField v-model="draft.board_revision" label="Board revision" :max="80" />
    <RowsField v-model="draft.parts" class="wide" label="Parts by place" :blank="PART" add="Add a part" :most="60">
      <template #default="{ row, at }">
        <PickOne v-model="row.place" class="place" label="Place" :choices="PART_PLACES" />
        <NumberField v-model="row.count" label="Count" whole :min="1" :problem="says(`parts.${at}.count`)" />
        <TextField v-model="row.value" label="Value" placeholder="2200 µF" :max="80" />
        <NumberField v-model="row.volts" label="Rated" unit="V" :min="1" :problem="says(`parts.${at}.volts`)" />
        <NumberField v-model="row.celsius" label="Rated" unit="°C" :min="40" :problem="says(`parts.${at}.celsius`)" />
        <TextField v-model="row.mark" label="Marked" :max="80" />
        <TextField v-model="row.channels" label="Channels" placeholder="all" />
      </template>
    </RowsField>
    <RowsField v-model="draft.fuses" class="wide" label="Fuses" :blank="FUSE" add="Add a fuse" :most="12">
      <template #default="{ row, at }">
        <NumberField v-model="row.amps" label="Fuse" unit="A" :min="0.5" :problem="says(`fuses.${at}.amps`)" />
        <a-checkbox v-model:checked="row.in_circuit" class="check">really in circuit</a-checkbox>
        <TextField v-model="row.remark" label="Remark" :max="200" />
      </template>
    </RowsField>
    <PickOne v-model="draft.fan" label="Fan" :choices="FAN" />
    <AreaField v-model="draft.remarks" class="wide" label="Remarks" />
  </KeptDialog>
</template>

<style scoped>
.place {
  flex: 2 1 180px;
}
</style>
