<script setup lang="ts">
// A lot of a model.
import { LOTS, REVISIONS, useKept } from '../../api/kept'
import type { LotView } from '../../api/kept'
import AreaField from '../../kit/AreaField.vue'
import DateField from '../../kit/DateField.vue'
import NumberField from '../../kit/NumberField.vue'
import TextField from '../../kit/TextField.vue'
import KeptDialog from './KeptDialog.vue'
import { useKeptForm } from './useKeptForm'

const props = defineProps<{ model: number; kept?: LotView | null }>()
const emit = defineEmits<{ close: [] }>()
const BLANK = { name: '', revision: '', made_on: null as string | null, count: null as number | null, remarks: '' }
const form = useKeptForm(
  {
    kind: LOTS,
    of: props.model,
    kept: props.kept,
    blank: BLANK,
    toDraft: (entry) => ({ ...BLANK, ...entry, made_on: entry.made_on ?? null, count: entry.count ?? null }),
    toEntry: (draft) => draft,
  },
  () => emit('close'),
)
const { draft, says } = form
const { open: revisions } = useKept(REVISIONS, () => props.model)
</script>

<template>
  <KeptDialog
    :form="form"
    :title="kept ? 'Change the lot' : 'Add a lot'"
    :act="kept ? 'Keep the change' : 'Add the lot'"
    :ready="!!draft.name.trim()"
    @close="emit('close')"
  >
    <TextField v-model="draft.name" label="Lot" :max="80" :problem="says('name')" />
    <TextField
      v-model="draft.revision"
      label="Of revision"
      :max="80"
      :placeholder="revisions.map((one) => one.entry.name).join(' or ')"
      :problem="says('revision')"
    />
    <DateField v-model="draft.made_on" label="Made on" :problem="says('made_on')" />
    <NumberField v-model="draft.count" label="How many" whole :min="1" :problem="says('count')" />
    <AreaField v-model="draft.remarks" class="wide" label="Remarks" />
  </KeptDialog>
</template>
