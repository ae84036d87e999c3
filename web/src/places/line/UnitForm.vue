<script setup lang="ts">
// Receives a unit of a model.
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import type { ModelView } from '../../api/types'
import { useAct } from '../../kit/act'
import DateField from '../../kit/DateField.vue'
import { useDraft } from '../../kit/draft'
import FormDialog from '../../kit/FormDialog.vue'
import { saysOf } from '../../kit/problem'
import TextField from '../../kit/TextField.vue'

const props = defineProps<{ open: boolean; model: ModelView }>()
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const BLANK = { serial: '', lot: '', revision: '', origin: '', received_on: null as string | null }
const kept = useDraft(`rulvek.unit.${props.model.id}`, BLANK, sessionStorage)
const { draft } = kept
const { act, pending, problem } = useAct(
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
const says = (field: string) => saysOf(problem.value, field)
</script>

<template>
  <FormDialog
    :open="open"
    title="Receive a unit"
    act="Receive the unit"
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
  </FormDialog>
</template>
