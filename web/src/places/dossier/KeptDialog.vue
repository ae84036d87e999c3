<script setup lang="ts">
// The dialog around a form of something that is kept: drafts, others who edit it, and texts side by side when stale.
import DraftNote from '../../kit/DraftNote.vue'
import FormDialog from '../../kit/FormDialog.vue'
import StaleNote from '../../kit/StaleNote.vue'
import ChangedNote from '../../trade/ChangedNote.vue'
import type { useKeptForm } from './useKeptForm'
import '../../kit/entry.css'

withDefaults(
  defineProps<{
    // eslint-disable-next-line @typescript-eslint/no-explicit-any -- of whatever kind
    form: ReturnType<typeof useKeptForm<any, any>>
    title: string
    act: string
    hint?: string
    ready?: boolean
    width?: number
  }>(),
  { ready: true, hint: '', width: 560 },
)
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <FormDialog
    open
    :title="title"
    :act="act"
    :hint="hint"
    :ready="ready"
    :width="width"
    :pending="form.pending.value"
    :problem="form.problem.value"
    @done="form.act"
    @cancel="emit('close')"
  >
    <DraftNote v-if="form.isNew" :draft="form.drafted" />
    <ChangedNote v-else :subject="form.subject.value" open />
    <div class="entry"><slot /></div>
    <StaleNote
      :differences="form.change.differences.value"
      @mine="form.change.keepMine"
      @theirs="form.change.takeTheirs"
    />
  </FormDialog>
</template>
