<script setup lang="ts">
// Changes what is said of a unit.
import client, { answered } from '../../api/client'
import type { UnitEntry } from '../../api/types'
import { useDraft } from '../../kit/draft'
import FormDialog from '../../kit/FormDialog.vue'
import { saysOf } from '../../kit/problem'
import StaleNote from '../../kit/StaleNote.vue'
import { useEntry } from '../../kit/useEntry'
import ChangedNote from '../../trade/ChangedNote.vue'
import UnitFields from './UnitFields.vue'
import { BLANK_UNIT, unitDraft, unitOf } from './unitDraft'

const props = defineProps<{ model: { id: number; name: string }; unit: number }>()
const emit = defineEmits<{ close: [] }>()
const kept = useDraft(`rulvek.unit-change.${props.unit}`, BLANK_UNIT, sessionStorage)
const { draft } = kept
const path = () => ({ path: { unit_id: props.unit } })
const { act, pending, problem, differences, keepMine, takeTheirs } = useEntry<UnitEntry>(
  () => true,
  () => answered(client.GET('/api/units/{unit_id}/entry', { params: path() })),
  (entry) => (draft.value = unitDraft(entry)),
  () => unitOf(draft.value),
  (body, seen) =>
    answered(
      client.PUT('/api/units/{unit_id}/entry', { params: { ...path(), header: { 'If-Match': `${seen}` } }, body }),
    ),
  () => {
    kept.forget()
    emit('close')
  },
)
</script>

<template>
  <FormDialog
    open
    title="Change the unit"
    act="Keep the change"
    :hint="`A unit of ${model.name}.`"
    :ready="!!draft.serial.trim()"
    :pending="pending"
    :problem="problem"
    :width="640"
    @done="act"
    @cancel="emit('close')"
  >
    <ChangedNote :subject="`unit/${unit}`" open />
    <UnitFields v-model="draft" :model="model.id" :says="(field) => saysOf(problem, field)" />
    <StaleNote :differences="differences" @mine="keepMine" @theirs="takeTheirs" />
  </FormDialog>
</template>
