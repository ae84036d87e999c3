<script setup lang="ts">
// Puts a series on record, or changes one.
import client, { answered } from '../../api/client'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import FormDialog from '../../kit/FormDialog.vue'
import { saysOf } from '../../kit/problem'
import TextField from '../../kit/TextField.vue'
import type { SeriesEntry } from '../../api/types'
import NumberField from '../../kit/NumberField.vue'
import ChangedNote from '../../trade/ChangedNote.vue'
import StaleNote from '../../kit/StaleNote.vue'
import { useEntry } from '../../kit/useEntry'

const props = defineProps<{
  open: boolean
  /** The series that is changed; a new one is made where none is named. */
  series?: number
}>()
const emit = defineEmits<{ close: [] }>()
const BLANK = { name: '', purpose: '', rating_step_watts: null as number | null, currency: '' }
const kept = useDraft(props.series ? `rulvek.series-change.${props.series}` : 'rulvek.series', BLANK, sessionStorage)
const { draft } = kept
const add = useAct(() => answered(client.POST('/api/series', { body: draft.value })), {
  done: () => {
    kept.forget()
    emit('close')
  },
})
const path = () => ({ path: { series_id: props.series! } })
const change = useEntry<SeriesEntry>(
  () => props.open && !!props.series,
  () => answered(client.GET('/api/series/{series_id}/entry', { params: path() })),
  (entry) => (draft.value = { ...BLANK, ...entry, rating_step_watts: entry.rating_step_watts ?? null }),
  () => draft.value,
  (body, seen) =>
    answered(
      client.PUT('/api/series/{series_id}/entry', { params: { ...path(), header: { 'If-Match': `${seen}` } }, body }),
    ),
  () => {
    kept.forget()
    emit('close')
  },
)
const { act, pending, problem } = props.series ? change : add
</script>

<template>
  <FormDialog
    :open="open"
    :title="series ? 'Change the series' : 'Add a series'"
    :act="series ? 'Keep the change' : 'Add the series'"
    :ready="!!draft.name.trim()"
    :pending="pending"
    :problem="problem"
    @done="act"
    @cancel="emit('close')"
  >
    <TextField v-model="draft.name" label="Name" :max="80" :problem="saysOf(problem, 'name')" />
    <TextField v-model="draft.purpose" label="What it is for" :max="200" placeholder="Boats" />
    <NumberField
      v-model="draft.rating_step_watts"
      label="Ratings are rounded to steps of"
      unit="W"
      :min="0.1"
      :problem="saysOf(problem, 'rating_step_watts')"
    />
    <TextField
      v-model="draft.currency"
      label="Currency of its prices"
      :max="3"
      placeholder="EUR"
      :problem="saysOf(problem, 'currency')"
    />
    <ChangedNote v-if="series" :subject="`series/${series}`" :open="open" />
    <StaleNote :differences="change.differences.value" @mine="change.keepMine" @theirs="change.takeTheirs" />
  </FormDialog>
</template>
