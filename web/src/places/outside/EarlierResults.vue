<script setup lang="ts">
// A table of earlier results: say what its columns are, see every row's problem, take the rows that can be taken.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import type { EarlierField, EarlierView, TableView } from '../../api/types'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import FileDrop from '../../kit/FileDrop.vue'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import TextField from '../../kit/TextField.vue'
import EarlierReadings from './EarlierReadings.vue'
import './outside.css'
import { counted } from '../../trade/format'

const TRAIL = [{ name: 'Evidence', to: '/evidence' }, { name: 'Earlier results' }]
const kept = ref<EarlierView | null>(null)
const EMPTY = {
  file: '',
  text: '',
  fields: [] as (EarlierField | '' | null)[],
  instrument: '',
  accuracy: 1 as number | null,
  whole: false,
}
const form = useDraft('rulvek.earlier', EMPTY, sessionStorage)
const draft = form.draft

const { data: table } = useQuery({
  queryKey: ['earlier', () => draft.value.file, () => draft.value.text],
  enabled: computed(() => draft.value.text !== ''),
  retry: false,
  staleTime: Infinity,
  queryFn: () => columnsOf(draft.value.file, draft.value.text),
})
const columnsOf = (file: string, text: string): Promise<TableView> =>
  answered(client.POST('/api/earlier/columns', { body: { file, text } }))

const takes = useAct(
  async (file: File) => {
    kept.value = null
    const text = await file.text()
    return { file: file.name, text, shown: await columnsOf(file.name, text) }
  },
  {
    asksWho: false,
    done: ({ file, text, shown }) => {
      Object.assign(draft.value, { file, text, fields: shown.columns.map((c) => c.field as EarlierField | '') })
    },
  },
)
const startOver = () => (draft.value = { ...EMPTY, instrument: draft.value.instrument })

const body = computed(() => ({
  file: draft.value.file,
  text: draft.value.text,
  mapping: Object.fromEntries(draft.value.fields.flatMap((f, i) => (f ? [[String(i), f]] : []))) as Record<
    string,
    EarlierField
  >,
  instrument: draft.value.instrument,
  accuracy_percent: draft.value.accuracy ?? 0,
  whole: draft.value.whole,
}))
const { data: rehearsal, error: refused } = useQuery({
  queryKey: ['rehearsal', body],
  enabled: computed(() => draft.value.text !== '' && draft.value.accuracy !== null && draft.value.fields.some(Boolean)),
  placeholderData: keepPreviousData,
  retry: false,
  meta: { fixed: true },
  queryFn: () => answered(client.POST('/api/earlier/rehearsal', { body: body.value })),
})
const keeps = useAct(() => answered(client.POST('/api/earlier', { body: body.value })), {
  takesLong: true,
  done: (view) => {
    kept.value = view
    startOver()
  },
})
const problem = computed(() => takes.problem.value ?? keeps.problem.value)
const says = (field: string) => saysOf(refused.value ?? problem.value, field)
const words = (field: string) =>
  ({
    load_ohms: 'load, Ω',
    watts: 'power, W (one column a channel)',
    volts_rms: 'output, V rms',
    volts_peak: 'output, V peak',
    tone_hz: 'tone, Hz',
    burst: 'burst profile',
    idle_amps: 'clamp at idle, A',
    charger_amps: 'a charger added, A',
    tripped_watts: 'tripped at, W',
    thd_n_percent: 'THD+N, %',
    load_measured: 'load measured, Ω',
    supply_volts: 'supply held at, V',
    start_volts: 'supply before, V',
    loaded_volts: 'supply at the reading, V',
    amps: 'supply current, A',
  })[field] ?? field
const choices = computed(() => [
  { value: '' as EarlierField | '', label: 'not used' },
  ...(table.value?.fields ?? []).map((f) => ({ value: f as EarlierField, label: words(f) })),
])
</script>

<template>
  <PageFrame title="Earlier results" :trail="TRAIL">
    <div class="outside">
      <header class="head">
        <h1>Earlier results</h1>
        <p v-if="table && draft.text" class="quiet">
          {{ draft.file }}, {{ counted(table.rows, 'row') }}
          <button class="plain" @click="startOver">Take another</button>
        </p>
      </header>
      <ProblemNote v-if="problem" :error="problem" />
      <p v-if="kept" class="kept" role="status">
        {{ counted(kept.readings.length, 'reading') }} kept<template v-if="kept.problems.length"
          >, {{ counted(kept.problems.length + kept.more_problems, 'row') }} left out</template
        >.
        <RouterLink to="/evidence">See them among the evidence</RouterLink>
      </p>

      <FileDrop v-if="!draft.text" accept=".csv,.txt,.tsv" @file="takes.act">
        <strong>Drop a table of earlier results, or choose a file</strong>
        <span class="quiet"
          >CSV with a heading, a row for each reading or for each of its channels: at least the unit’s serial number,
          the mode, the load and watts or volts. Nothing is kept before you have seen what it gives.</span
        >
      </FileDrop>

      <div v-else class="two">
        <section>
          <h2>What the columns are</h2>
          <ol class="columns">
            <li v-for="(c, i) in table?.columns" :key="i">
              <span class="name">{{ c.name }}</span>
              <span class="mono quiet example">{{ c.example }}</span>
              <PickOne v-model="draft.fields[i]!" bare :label="`What ${c.name} is`" :choices="choices" />
            </li>
          </ol>
          <fieldset>
            <legend>Where no column says it</legend>
            <TextField
              v-model="draft.instrument"
              class="name"
              label="Read with"
              :max="120"
              :problem="says('instrument')"
            />
            <NumberField v-model="draft.accuracy" label="Its limits, ± of volts" unit="%" required :min="0" />
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
                :loading="keeps.pending.value"
                :disabled="(draft.whole && !!rehearsal.problems.length) || !rehearsal.readings.length"
                @click="keeps.act()"
                >{{ rehearsal.problems.length && !draft.whole ? 'Keep what can be taken' : 'Keep all of it' }}</a-button
              >
            </div>
            <a-checkbox v-model:checked="draft.whole" class="whole">all of it or nothing</a-checkbox>
            <ul v-if="rehearsal.problems.length" class="problems">
              <li v-for="p in rehearsal.problems" :key="p.row">
                <span class="mono">row {{ p.row }}</span> {{ p.what }}.
              </li>
            </ul>
            <EarlierReadings :readings="rehearsal.readings" />
          </template>
        </aside>
      </div>
    </div>
  </PageFrame>
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
.columns {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.columns li {
  display: grid;
  grid-template-columns: 1fr 1fr 1.3fr;
  gap: 12px;
  align-items: center;
  font-size: 14px;
}
.outside .columns .name {
  grid-column: auto;
}
.example {
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
.whole {
  margin-bottom: 10px;
  font-size: 14px;
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
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
