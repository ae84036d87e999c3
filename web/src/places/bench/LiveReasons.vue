<script setup lang="ts">
// What is asked before something is repeated, left out, hurried or remarked at the live bench.
import ReasonDialog from '../../kit/ReasonDialog.vue'
import ChangedNote from '../../trade/ChangedNote.vue'
import { CAUSES } from '../../trade/format'
import type { Asking } from './useBenchWork'

defineProps<{ asking: Asking; campaign: number; pending: boolean; problem: unknown }>()
const emit = defineEmits<{ done: [reason: string, cause: string | null]; cancel: [] }>()
const QUESTIONS = {
  repeat: {
    title: 'Why is this run repeated?',
    act: 'Repeat the run',
    hint: 'All attempts are kept; the sheet shows the last valid one unless you choose another.',
  },
  skip: {
    title: 'Why can this be left out?',
    act: 'Skip it',
    hint: 'The reason stands with every reading of this wiring.',
  },
  hurry: { title: 'Why need the run not wait?', act: 'Start it', hint: 'The reason stands with the reading.' },
  comment: { title: 'Comment on this attempt', act: 'Keep the comment', hint: '' },
} as const
const KINDS = Object.keys(QUESTIONS) as (keyof typeof QUESTIONS)[]
</script>

<template>
  <ReasonDialog
    v-for="kind in KINDS"
    :key="kind"
    :open="asking === kind"
    :title="QUESTIONS[kind].title"
    :act="QUESTIONS[kind].act"
    :hint="QUESTIONS[kind].hint"
    :causes="kind === 'repeat' ? CAUSES : undefined"
    :pending="pending"
    :problem="asking === kind ? problem : null"
    @done="(reason, cause) => emit('done', reason, cause)"
    @cancel="emit('cancel')"
  >
    <ChangedNote :subject="`campaign/${campaign}`" :open="asking === kind" />
  </ReasonDialog>
</template>
