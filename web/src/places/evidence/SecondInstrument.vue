<script setup lang="ts">
// Another instrument at the same attempt: its readings beside those that count, with E_n, and a way to add one.
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import client, { answered } from '../../api/client'
import { usePerson } from '../../api/person'
import { refreshEvidence } from '../../api/queries'
import type { AttemptPage } from '../../api/types'
import { decibels, spread, watts } from '../../parts/format'
import ProblemNote from '../../parts/ProblemNote.vue'

const props = defineProps<{ page: AttemptPage }>()
const queries = useQueryClient()
const person = usePerson()
const open = ref(false)
const problem = ref<unknown>(null)
const instrument = ref('')
const accuracy = ref<number | ''>(1)
const sort = ref<'volts_rms' | 'watts'>('volts_rms')
const values = ref<(number | '')[]>([])
const name = (channel: number) => (props.page.run.bridged ? `${channel} + ${channel + 1}` : String(channel))

async function add() {
  if (!(await person.required())) return
  problem.value = null
  try {
    const channels = props.page.attempt.readings.map((r, i) => ({
      channel: r.channel,
      [sort.value]: values.value[i] === '' ? null : (values.value[i] ?? null),
    }))
    const body = { instrument: instrument.value, accuracy_percent: accuracy.value || 0, channels }
    const params = { path: { attempt_id: props.page.attempt.id } }
    await answered(client.POST('/api/attempts/{attempt_id}/second', { params, body }))
    open.value = false
    values.value = []
    refreshEvidence(queries)
    await queries.invalidateQueries({ queryKey: ['attempt'] })
  } catch (failure) {
    problem.value = failure
  }
}
</script>

<template>
  <div class="second">
    <table v-if="page.seconds.length" class="figures">
      <thead>
        <tr>
          <th scope="col">Second instrument</th>
          <th scope="col">Channel</th>
          <th class="num" scope="col">Power, W</th>
          <th class="num" scope="col">its own U</th>
          <th class="num" scope="col">E<sub>n</sub></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(s, i) in page.seconds" :key="i">
          <td :title="s.by">{{ s.instrument }}</td>
          <td>{{ name(s.channel) }}</td>
          <td class="num">{{ watts(s.watts) }}</td>
          <td class="num">{{ spread(s.expanded_watts) }}</td>
          <td class="num" :class="{ danger: Math.abs(s.normalised_error ?? 0) > 1 }">
            {{ decibels(s.normalised_error) }}
          </td>
        </tr>
      </tbody>
    </table>
    <button class="plain" @click="open = true">Add a second instrument’s reading …</button>
    <a-modal :open="open" title="A second instrument, same attempt" ok-text="Keep it" @ok="add" @cancel="open = false">
      <p class="quiet">
        What another meter or oscilloscope read on the same terminals at the same moment. The first reading stands; the
        two are compared by E<sub>n</sub> with what belongs to each instrument alone.
      </p>
      <form class="fields" @submit.prevent="add">
        <label class="wide">Instrument <input v-model="instrument" type="text" maxlength="120" /></label>
        <label>± % of volts <input v-model.number="accuracy" type="number" step="any" min="0" /></label>
        <label>
          Read as
          <select v-model="sort">
            <option value="volts_rms">V rms</option>
            <option value="watts">W</option>
          </select>
        </label>
        <label v-for="(r, i) in page.attempt.readings" :key="r.channel">
          Channel {{ name(r.channel) }} <input v-model.number="values[i]" type="number" step="any" min="0" />
        </label>
        <button type="submit" hidden />
      </form>
      <ProblemNote v-if="problem" :error="problem" />
    </a-modal>
  </div>
</template>

<style scoped>
.second {
  margin-top: 8px;
}
.plain {
  font: inherit;
  font-size: 14px;
  color: var(--certified);
  background: none;
  border: none;
  padding: 4px 0;
  cursor: pointer;
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 16px;
  padding: 12px 0;
}
.fields label {
  display: grid;
  gap: 2px;
  font-size: 14px;
}
.wide {
  grid-column: span 2;
}
</style>
