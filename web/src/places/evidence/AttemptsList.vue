<script setup lang="ts">
// All attempts at a run with their differences; one stands for the run, by default the last valid one.
import { ref } from 'vue'
import client, { answered } from '../../api/client'
import type { AttemptView, RunView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'
import ReasonDialog from '../../kit/ReasonDialog.vue'
import { CAUSES, END_WORDS, decibels, moment } from '../../trade/format'
import WattsFigure from '../../trade/WattsFigure.vue'

const props = defineProps<{ run: RunView; shown: number }>()
const choosing = ref<number | null>(null)
const difference = (attempt: AttemptView) => props.run.differences.find((d) => d.attempt_id === attempt.id)
const why = (attempt: AttemptView) =>
  [attempt.cause ? CAUSES[attempt.cause as keyof typeof CAUSES] : '', attempt.reason].filter(Boolean).join(': ')
function against(a: AttemptView): string {
  const found = difference(a)
  if (found) return `${decibels(found.db)} dB, ${figure(found.percent, 1)} %`
  return a.id === props.run.chosen?.id ? 'stands for the run' : ''
}

const { act, pending, problem, forget } = useAct(
  (reason: string) =>
    answered(
      client.POST('/api/runs/{run_id}/choice', {
        params: { path: { run_id: props.run.id } },
        body: { attempt_id: choosing.value!, reason },
      }),
    ),
  { done: () => (choosing.value = null) },
)
function ask(attempt: AttemptView | null) {
  forget()
  choosing.value = attempt?.id ?? null
}

const COLUMNS: Column<AttemptView>[] = [
  { key: 'number', head: 'Attempt', text: (a) => String(a.number), value: (a) => a.number },
  { key: 'watts', head: 'Weakest', unit: 'W', num: true, text: () => '', value: (a) => a.weakest_watts },
  { key: 'against', head: 'Against the standing one', num: true, text: against },
  {
    key: 'supply',
    head: 'Supply',
    unit: 'V',
    num: true,
    text: (a) => figure(a.supply_volts, 2),
    value: (a) => a.supply_volts,
  },
  { key: 'end', head: 'End', text: (a) => (a.end ? END_WORDS[a.end] : 'running') },
  { key: 'why', head: 'Why', look: 'quiet', text: why },
  { key: 'by', head: 'By', look: 'quiet', text: (a) => `${a.started_by}, ${moment(a.started_at)}` },
  { key: 'act', head: '', text: () => '', unsorted: true },
]
</script>

<template>
  <section class="section">
    <header>
      <h2>Attempts</h2>
      <span class="quiet">
        {{
          run.choice
            ? `chosen by ${run.choice.by}: ${run.choice.reason}`
            : 'the last valid one stands for the run; all are kept'
        }}
      </span>
    </header>
    <DataTable
      :id="(a) => a.id"
      name="Attempts at this run"
      :rows="run.attempts"
      :columns="COLUMNS"
      :to="(a) => (a.id === shown ? undefined : `/attempts/${a.id}`)"
      :marked="(a) => (a.id === shown ? 'shown' : undefined)"
      sort-name="attempts"
    >
      <template #watts="{ row: a }"><WattsFigure :value="a.weakest_watts" :u="a.expanded_watts" /></template>
      <template #end="{ row: a }"
        ><span :class="{ danger: !a.at_limit }">{{ a.end ? END_WORDS[a.end] : 'running' }}</span></template
      >
      <template #act="{ row: a }"
        ><a-button v-if="a.end && a.id !== run.chosen?.id" size="small" @click="ask(a)">Choose …</a-button></template
      >
    </DataTable>
    <ReasonDialog
      :open="choosing !== null"
      title="Why does this attempt stand for the run?"
      act="Choose it"
      hint="The choice and its reason are recorded; all attempts are kept."
      :pending="pending"
      :problem="problem"
      @done="act"
      @cancel="ask(null)"
    />
  </section>
</template>

<style scoped>
.section :deep(.shown) {
  background: var(--selected);
}
</style>
