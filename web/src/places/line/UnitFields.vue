<script setup lang="ts">
// The fields of a unit: what it is first, then how it came, then where it is.
import { LOTS, REVISIONS, useKept } from '../../api/kept'
import AreaField from '../../kit/AreaField.vue'
import DateField from '../../kit/DateField.vue'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import RowsField from '../../kit/RowsField.vue'
import TextField from '../../kit/TextField.vue'
import { CAME, STATES } from './unitDraft'
import type { UnitDraft } from './unitDraft'
import '../../kit/entry.css'

const props = defineProps<{ model: number; says: (field: string) => string }>()
const draft = defineModel<UnitDraft>({ required: true })
const { open: lots } = useKept(LOTS, () => props.model)
const { open: revisions } = useKept(REVISIONS, () => props.model)
/** What is on record already, as an example of how it is written. */
const known = (all: readonly { entry: { name: string } }[]) =>
  all
    .slice(-3)
    .map((one) => one.entry.name)
    .join(', ')
</script>

<template>
  <div class="entry">
    <TextField v-model="draft.serial" class="wide" label="Serial number" :max="80" :problem="says('serial')" />
    <TextField v-model="draft.lot" label="Lot" :max="80" :placeholder="known(lots)" :problem="says('lot')" />
    <TextField
      v-model="draft.revision"
      label="Revision"
      :max="80"
      :placeholder="known(revisions)"
      :problem="says('revision')"
    />
    <PickOne v-model="draft.came" label="How it came" :choices="CAME" placeholder="not said" />
    <DateField v-model="draft.received_on" label="Received on" placeholder="today" :problem="says('received_on')" />
    <TextField v-model="draft.from_whom" label="From whom" :max="200" :problem="says('facts.from_whom')" />
    <TextField
      v-model="draft.origin"
      label="Remark on how it came"
      :max="200"
      placeholder="no fault found"
      :problem="says('origin')"
    />
    <NumberField v-model="draft.price.amount" label="Price paid" :min="0" :problem="says('facts.price_paid.amount')" />
    <TextField
      v-model="draft.price.currency"
      label="Currency"
      :max="3"
      placeholder="EUR"
      :problem="says('facts.price_paid.currency')"
    />
    <RowsField
      v-model="draft.contents"
      class="wide"
      label="What came with it"
      :blank="{ what: '', count: 1 }"
      add="Add a thing"
    >
      <template #default="{ row }">
        <TextField v-model="row.what" label="What" :max="80" placeholder="Bass remote with cable" />
        <NumberField v-model="row.count" label="Count" whole :min="0" />
      </template>
    </RowsField>
    <AreaField v-model="draft.missing" class="wide" label="Missing or damaged" :problem="says('facts.missing')" />
    <PickOne v-model="draft.state" label="State" :choices="STATES" />
    <TextField v-model="draft.whereabouts" label="Where it is" :max="200" placeholder="Shelf 3" />
    <DateField
      v-model="draft.first_power_up"
      label="First power-up"
      placeholder="not yet"
      :problem="says('facts.first_power_up')"
    />
  </div>
</template>
