<script setup lang="ts">
// A table of earlier results: say what its columns are, see every row's problem, take all of it or nothing.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import client, { answered } from '../../api/client'
import { useWho } from '../../kit/who'
import { stored } from '../../kit/stored'
import { refreshEvidence } from '../../api/queries'
import type { EarlierField, EarlierView, TableView } from '../../api/types'
import FindingsList from '../../trade/FindingsList.vue'
import { MODE_WORDS, place, spread, watts } from '../../trade/format'
import ProblemNote from '../../kit/ProblemNote.vue'
import Trail from '../../kit/Trail.vue'
import FileDrop from '../../kit/FileDrop.vue'
import './outside.css'

const KEY = 'rulvek.earlier'
const queries = useQueryClient()
const person = useWho()
const problem = ref<unknown>(null)
const kept = ref<EarlierView | null>(null)
const EMPTY = { file: '', text: '', fields: [] as (EarlierField | '')[], instrument: '', accuracy: 1 as number | '' }
const draft = reactive(stored(sessionStorage, KEY, EMPTY))
watch(draft, (now) => {
  try {
    sessionStorage.setItem(KEY, JSON.stringify(now))
  } catch {
    sessionStorage.removeItem(KEY) // a table too large to be remembered
  }
})

const { data: table } = useQuery({
  queryKey: ['earlier', () => draft.file, () => draft.text],
  enabled: computed(() => draft.text !== ''),
  retry: false,
  staleTime: Infinity,
  queryFn: () => columnsOf(draft.file, draft.text),
})
const columnsOf = (file: string, text: string): Promise<TableView> =>
  answered(client.POST('/api/earlier/columns', { body: { file, text } }))

async function take(file: File) {
  problem.value = null
  kept.value = null
  try {
    const text = await file.text()
    const shown = await columnsOf(file.name, text)
    Object.assign(draft, { file: file.name, text, fields: shown.columns.map((c) => c.field as EarlierField | '') })
  } catch (failure) {
    problem.value = failure
  }
}
const startOver = () => Object.assign(draft, EMPTY, { instrument: draft.instrument })

const body = computed(() => ({
  file: draft.file,
  text: draft.text,
  mapping: Object.fromEntries(draft.fields.flatMap((f, i) => (f ? [[String(i), f]] : []))) as Record<
    string,
    EarlierField
  >,
  instrument: draft.instrument,
  accuracy_percent: draft.accuracy || 0,
}))
const { data: rehearsal, error: refused } = useQuery({
  queryKey: ['rehearsal', body],
  enabled: computed(() => draft.text !== '' && draft.fields.some(Boolean)),
  placeholderData: keepPreviousData,
  retry: false,
  queryFn: () => answered(client.POST('/api/earlier/rehearsal', { body: body.value })),
})
async function keep() {
  if (!(await person.required())) return
  problem.value = null
  try {
    kept.value = await answered(client.POST('/api/earlier', { body: body.value }))
    startOver()
    refreshEvidence(queries)
  } catch (failure) {
    problem.value = failure
  }
}
const words = (field: string) =>
  ({
    load_ohms: 'load, Ω',
    watts: 'power, W (one column a channel)',
    volts_rms: 'output, V rms',
    thd_n_percent: 'THD+N, %',
    load_measured: 'load measured, Ω',
    supply_volts: 'supply held at, V',
    start_volts: 'supply before, V',
    loaded_volts: 'supply at the reading, V',
    amps: 'supply current, A',
  })[field] ?? field
const counted = (n: number, one: string) => `${n} ${one}${n === 1 ? '' : 's'}`
</script>

<template>
  <div class="outside">
    <Trail :steps="[{ name: 'Evidence', to: '/evidence' }, { name: 'Earlier results' }]" />
    <header class="head">
      <h1>Earlier results</h1>
      <p v-if="table && draft.text" class="quiet">
        {{ draft.file }}, {{ counted(table.rows, 'row') }}
        <button class="plain" @click="startOver">Take another</button>
      </p>
    </header>
    <ProblemNote v-if="problem" :error="problem" />
    <p v-if="kept" class="kept" role="status">
      {{ counted(kept.readings.length, 'reading') }} kept.
      <RouterLink to="/evidence">See them among the evidence</RouterLink>
    </p>

    <FileDrop v-if="!draft.text" accept=".csv,.txt,.tsv" @file="take">
      <strong>Drop a table of earlier results, or choose a file</strong>
      <span class="quiet"
        >CSV with a heading, a row for each reading or for each of its channels: at least the unit’s serial number, the
        mode, the load and watts or volts. Nothing is kept before you have seen what it gives.</span
      >
    </FileDrop>

    <div v-else class="two">
      <section>
        <h2>What the columns are</h2>
        <table class="figures">
          <tbody>
            <tr v-for="(c, i) in table?.columns" :key="i">
              <td>{{ c.name }}</td>
              <td class="mono quiet example">{{ c.example }}</td>
              <td>
                <select v-model="draft.fields[i]" :aria-label="`What ${c.name} is`">
                  <option value="">not used</option>
                  <option v-for="f in table?.fields" :key="f" :value="f">{{ words(f) }}</option>
                </select>
              </td>
            </tr>
          </tbody>
        </table>
        <fieldset>
          <legend>Where no column says it</legend>
          <label class="name">Read with <input v-model="draft.instrument" type="text" maxlength="120" /></label>
          <label>± % of volts <input v-model.number="draft.accuracy" type="number" step="any" min="0" /></label>
        </fieldset>
      </section>
      <aside aria-live="polite">
        <ProblemNote v-if="refused" :error="refused" />
        <template v-else-if="rehearsal">
          <div class="result">
            <h2>
              {{ counted(rehearsal.readings.length, 'reading')
              }}<template v-if="rehearsal.problems.length"
                >, {{ counted(rehearsal.problems.length + rehearsal.more_problems, 'row') }} with a problem</template
              >
            </h2>
            <a-button
              type="primary"
              size="large"
              :disabled="!!rehearsal.problems.length || !rehearsal.readings.length"
              @click="keep"
              >Keep all of it</a-button
            >
          </div>
          <ul v-if="rehearsal.problems.length" class="problems">
            <li v-for="p in rehearsal.problems" :key="p.row">
              <span class="mono">row {{ p.row }}</span> {{ p.what }}.
            </li>
          </ul>
          <table v-if="rehearsal.readings.length" class="figures">
            <thead>
              <tr>
                <th>Row</th>
                <th>Unit</th>
                <th>Run</th>
                <th class="num">Weakest, W</th>
                <th class="num">± U</th>
              </tr>
            </thead>
            <tbody v-for="r in rehearsal.readings.slice(0, 60)" :key="r.row">
              <tr>
                <td>{{ r.row }}</td>
                <td class="mono">{{ r.serial }}</td>
                <td>{{ MODE_WORDS[r.mode] }}, {{ place(r) }}</td>
                <td class="num">{{ watts(r.weakest_watts, r.expanded_watts) }}</td>
                <td class="num">{{ spread(r.expanded_watts) }}</td>
              </tr>
              <tr v-if="r.findings.length" class="found">
                <td></td>
                <td colspan="4"><FindingsList :findings="r.findings" brief /></td>
              </tr>
            </tbody>
          </table>
          <p v-if="rehearsal.readings.length > 60" class="quiet">
            and {{ rehearsal.readings.length - 60 }} more, all kept with these
          </p>
        </template>
      </aside>
    </div>
  </div>
</template>

<style scoped>
.kept {
  margin-top: 12px;
  padding: 8px 12px;
  border-left: 3px solid var(--certified);
  background: var(--sheet);
}
.two {
  display: grid;
  grid-template-columns: 1fr 1.1fr;
  gap: 40px;
  padding-top: 14px;
}
section td {
  padding-block: 4px;
  vertical-align: middle;
}
.example {
  max-width: 150px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
section fieldset {
  margin-top: 18px;
}
.result {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding-bottom: 8px;
}
.problems {
  list-style: none;
  margin: 0 0 14px;
  padding: 6px 12px;
  max-height: 260px;
  overflow-y: auto;
  border-left: 3px solid var(--danger);
  background: var(--sheet);
  font-size: 14px;
}
.problems .mono {
  display: inline-block;
  min-width: 64px;
}
.found td {
  border-top: none;
  padding-top: 0;
}
</style>
