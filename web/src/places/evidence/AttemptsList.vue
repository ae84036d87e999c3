<script setup lang="ts">
// All attempts at a run with their differences; one stands for the run, by default the last valid one.
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import client, { answered } from '../../api/client'
import { useWho } from '../../kit/who'
import { refreshEvidence } from '../../api/queries'
import type { AttemptView, RunView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { CAUSES, END_WORDS, decibels, moment } from '../../trade/format'
import ProblemNote from '../../kit/ProblemNote.vue'
import ReasonDialog from '../../kit/ReasonDialog.vue'
import WattsFigure from '../../trade/WattsFigure.vue'

const props = defineProps<{ run: RunView; shown: number }>()
const queries = useQueryClient()
const person = useWho()
const choosing = ref<number | null>(null)
const problem = ref<unknown>(null)
const difference = (attempt: AttemptView) => props.run.differences.find((d) => d.attempt_id === attempt.id)
const why = (attempt: AttemptView) =>
  [attempt.cause ? CAUSES[attempt.cause as keyof typeof CAUSES] : '', attempt.reason].filter(Boolean).join(': ')

async function choose(reason: string) {
  const attempt_id = choosing.value
  if (attempt_id === null || !(await person.required())) return
  problem.value = null
  try {
    const params = { path: { run_id: props.run.id } }
    await answered(client.POST('/api/runs/{run_id}/choice', { params, body: { attempt_id, reason } }))
    choosing.value = null
    refreshEvidence(queries)
    await queries.invalidateQueries({ queryKey: ['attempt'] })
  } catch (failure) {
    problem.value = failure
  }
}
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
    <ProblemNote v-if="problem" :error="problem" />
    <table class="figures">
      <tbody>
        <tr v-for="a in run.attempts" :key="a.id" :aria-current="a.id === shown || undefined">
          <td>
            <RouterLink :to="`/attempts/${a.id}`">{{ a.number }}</RouterLink>
          </td>
          <td class="num"><WattsFigure :value="a.weakest_watts" :u="a.expanded_watts" /> W</td>
          <td class="num">
            <template v-if="difference(a)"
              >{{ decibels(difference(a)!.db) }} dB, {{ figure(difference(a)!.percent, 1) }} %</template
            >
            <template v-else-if="a.id === run.chosen?.id">stands for the run</template>
          </td>
          <td class="num">{{ figure(a.supply_volts, 2) }} V</td>
          <td :class="{ danger: !a.at_limit }">{{ a.end ? END_WORDS[a.end] : 'running' }}</td>
          <td class="quiet">{{ why(a) }}</td>
          <td class="quiet">{{ a.started_by }}, {{ moment(a.started_at) }}</td>
          <td>
            <a-button v-if="a.end && a.id !== run.chosen?.id" size="small" @click="choosing = a.id">Choose …</a-button>
          </td>
        </tr>
      </tbody>
    </table>
    <ReasonDialog
      :open="choosing !== null"
      title="Why does this attempt stand for the run?"
      act="Choose it"
      hint="The choice and its reason are recorded; all attempts are kept."
      @done="choose"
      @cancel="choosing = null"
    />
  </section>
</template>

<style scoped>
tr[aria-current] td {
  background: var(--selected);
}
</style>
