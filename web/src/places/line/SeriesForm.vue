<script setup lang="ts">
// Puts a series on record.
import client, { answered } from '../../api/client'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import FormDialog from '../../kit/FormDialog.vue'
import { saysOf } from '../../kit/problem'
import TextField from '../../kit/TextField.vue'

defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const kept = useDraft('rulvek.series', { name: '', purpose: '' }, sessionStorage)
const { draft } = kept
const { act, pending, problem } = useAct(() => answered(client.POST('/api/series', { body: draft.value })), {
  done: () => {
    kept.forget()
    emit('close')
  },
})
</script>

<template>
  <FormDialog
    :open="open"
    title="Add a series"
    act="Add the series"
    :ready="!!draft.name.trim()"
    :pending="pending"
    :problem="problem"
    @done="act"
    @cancel="emit('close')"
  >
    <TextField v-model="draft.name" label="Name" :max="80" :problem="saysOf(problem, 'name')" />
    <TextField v-model="draft.purpose" label="What it is for" :max="200" placeholder="Boats" />
  </FormDialog>
</template>
