<script setup lang="ts">
// A revision of a model: what changed, and since when.
import { REVISIONS } from '../../api/kept'
import type { RevisionView } from '../../api/kept'
import AreaField from '../../kit/AreaField.vue'
import DateField from '../../kit/DateField.vue'
import TextField from '../../kit/TextField.vue'
import KeptDialog from './KeptDialog.vue'
import { useKeptForm } from './useKeptForm'

const props = defineProps<{ model: number; kept?: RevisionView | null }>()
const emit = defineEmits<{ close: [] }>()
const BLANK = { name: '', changed: '', since: null as string | null }
const form = useKeptForm(
  {
    kind: REVISIONS,
    of: props.model,
    kept: props.kept,
    blank: BLANK,
    toDraft: (entry) => ({ ...BLANK, ...entry, since: entry.since ?? null }),
    toEntry: (draft) => draft,
  },
  () => emit('close'),
)
const { draft, says } = form
</script>

<template>
  <KeptDialog
    :form="form"
    :title="kept ? 'Change the revision' : 'Add a revision'"
    :act="kept ? 'Keep the change' : 'Add the revision'"
    :ready="!!draft.name.trim()"
    @close="emit('close')"
  >
    <TextField v-model="draft.name" label="Revision" :max="80" :problem="says('name')" />
    <DateField v-model="draft.since" label="Made so since" :problem="says('since')" />
    <AreaField
      v-model="draft.changed"
      class="wide"
      label="What changed"
      :rows="3"
      placeholder="Input capacitors of 3300 µF in place of 2200 µF"
      :problem="says('changed')"
    />
  </KeptDialog>
</template>
