<script setup lang="ts">
// Receives a unit of a model, or changes what is said of one.
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import type { ModelView, UnitEntry } from '../../api/types'
import { useAct } from '../../kit/act'
import DateField from '../../kit/DateField.vue'
import { useDraft } from '../../kit/draft'
import FormDialog from '../../kit/FormDialog.vue'
import { saysOf } from '../../kit/problem'
import TextField from '../../kit/TextField.vue'
import StaleNote from './StaleNote.vue'
import { useEntry } from './useEntry'

const props = defineProps<{
  open: boolean
  model: Pick<ModelView, 'id' | 'name'>
  /** The unit that is changed; a new one is received where none is named. */
  unit?: number
}>()
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const BLANK = { serial: '', lot: '', revision: '', origin: '', received_on: null as string | null }
const kept = useDraft(
  props.unit ? `rulvek.unit-change.${props.unit}` : `rulvek.unit.${props.model.id}`,
  BLANK,
  sessionStorage,
)
const { draft } = kept
const receive = useAct(
  () =>
    answered(
      client.POST('/api/models/{model_id}/units', {
        params: { path: { model_id: props.model.id } },
        body: draft.value,
      }),
    ),
  {
    done: async (made) => {
      kept.forget()
      emit('close')
      await router.push(`/units/${made.id}`)
    },
  },
)
const path = () => ({ path: { unit_id: props.unit! } })
const change = useEntry<UnitEntry>(
  () => props.open && !!props.unit,
  () => answered(client.GET('/api/units/{unit_id}/entry', { params: path() })),
  (entry) => (draft.value = { ...BLANK, ...entry, received_on: entry.received_on ?? null }),
  () => draft.value,
  (body, seen) =>
    answered(
      client.PUT('/api/units/{unit_id}/entry', { params: { ...path(), header: { 'If-Match': `${seen}` } }, body }),
    ),
  () => {
    kept.forget()
    emit('close')
  },
)
const { act, pending, problem } = props.unit ? change : receive
const says = (field: string) => saysOf(problem.value, field)
</script>

<template>
  <FormDialog
    :open="open"
    :title="unit ? 'Change the unit' : 'Receive a unit'"
    :act="unit ? 'Keep the change' : 'Receive the unit'"
    :hint="`A unit of ${model.name}.`"
    :ready="!!draft.serial.trim()"
    :pending="pending"
    :problem="problem"
    @done="act"
    @cancel="emit('close')"
  >
    <TextField v-model="draft.serial" label="Serial number" :max="80" :problem="says('serial')" />
    <TextField v-model="draft.lot" label="Lot" :max="80" :problem="says('lot')" />
    <TextField v-model="draft.revision" label="Revision" :max="80" :problem="says('revision')" />
    <TextField
      v-model="draft.origin"
      label="Where from"
      :max="200"
      placeholder="Pulled from production"
      :problem="says('origin')"
    />
    <DateField v-model="draft.received_on" label="Received on" placeholder="today" :problem="says('received_on')" />
    <StaleNote :differences="change.differences.value" @mine="change.keepMine" @theirs="change.takeTheirs" />
  </FormDialog>
</template>
