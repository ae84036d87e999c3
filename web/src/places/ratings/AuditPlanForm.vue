<script setup lang="ts">
// How many units of a model are to prove in which months what is promised.
import { computed } from 'vue'
import { AUDIT_PLANS } from '../../api/kept'
import type { AuditPlanView } from '../../api/kept'
import type { CellView } from '../../api/types'
import AreaField from '../../kit/AreaField.vue'
import DateField from '../../kit/DateField.vue'
import NumberField from '../../kit/NumberField.vue'
import { place } from '../../trade/format'
import KeptDialog from '../dossier/KeptDialog.vue'
import { useKeptForm } from '../dossier/useKeptForm'

type Entry = AuditPlanView['entry']
type Place = Entry['places'][number]
const props = defineProps<{
  model: { id: number; name: string }
  /** Its loads with a published figure. */
  published: readonly CellView[]
  kept?: AuditPlanView | null
}>()
const emit = defineEmits<{ close: [] }>()
const today = new Date().toISOString().slice(0, 10)
const BLANK = {
  starts_on: today as string | null,
  units: 2 as number | null,
  every_months: 1 as number | null,
  places: [] as Place[],
  remarks: '',
  runs: true,
  good_lot_percent: 95 as number | null,
}
const form = useKeptForm(
  {
    kind: AUDIT_PLANS,
    of: props.model.id,
    kept: props.kept,
    blank: BLANK,
    toDraft: (entry) => ({ ...BLANK, ...entry, places: [...entry.places] }),
    toEntry: (draft) => draft as Entry,
  },
  () => emit('close'),
)
const { draft, says } = form
const same = (one: Place, other: Place) =>
  one.group === other.group && one.load_ohms === other.load_ohms && one.bridged === other.bridged
const places = computed(() =>
  props.published
    .filter((cell) => cell.kind === 'continuous')
    .map((cell) => ({ group: cell.group, load_ohms: cell.load_ohms, bridged: cell.bridged })),
)
const isNamed = (one: Place) => draft.value.places.some((other) => same(one, other))
function name(one: Place, named: boolean) {
  const others = draft.value.places.filter((other) => !same(one, other))
  draft.value.places = named ? [...others, one] : others
}
</script>

<template>
  <KeptDialog
    :form="form"
    :title="kept ? `Change the audit of ${model.name}` : `Plan an audit of ${model.name}`"
    :act="kept ? 'Keep the change' : 'Plan it'"
    hint="Each unit holds what is promised and a little more, at each of the loads: minutes, not a certified run."
    :ready="!!draft.starts_on && !!draft.units && !!draft.every_months && !!draft.good_lot_percent"
    @close="emit('close')"
  >
    <NumberField v-model="draft.units" label="Units" whole :min="1" :max="50" :problem="says('units')" />
    <NumberField
      v-model="draft.every_months"
      label="Every how many months"
      whole
      :min="1"
      :max="12"
      :problem="says('every_months')"
    />
    <DateField v-model="draft.starts_on" label="From the month of" :problem="says('starts_on')" />
    <fieldset v-if="places.length > 1" class="wide">
      <legend>At {{ draft.places.length ? 'these loads' : 'every load with a published rating' }}</legend>
      <a-checkbox
        v-for="one in places"
        :key="`${one.group}${one.load_ohms}${one.bridged}`"
        :checked="isNamed(one)"
        @change="name(one, $event.target.checked)"
        >{{ one.group }}, {{ place(one) }}</a-checkbox
      >
    </fieldset>
    <a-checkbox v-model:checked="draft.runs" class="wide"
      >Runs on one side speak for a change, too (Western Electric rules), not only a value beyond three
      sigma</a-checkbox
    >
    <NumberField
      v-model="draft.good_lot_percent"
      label="Lots as good as promised, accepted"
      unit="%"
      :min="50"
      :max="99.9"
      :problem="says('good_lot_percent')"
    />
    <AreaField v-model="draft.remarks" class="wide" label="Remarks" />
  </KeptDialog>
</template>

<style scoped>
fieldset {
  margin: 0;
  padding: 0;
  border: none;
}
legend {
  padding: 0 0 4px;
  font-size: 14px;
}
</style>
