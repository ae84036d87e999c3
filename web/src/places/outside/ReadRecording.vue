<script setup lang="ts">
// A recorded capture: dropped, laid out, read in the background, looked at, and kept as an attempt.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useWho } from '../../kit/who'
import { stored } from '../../kit/stored'
import { refreshEvidence, useUnit } from '../../api/queries'
import type { Mode, RecordingView } from '../../api/types'
import FindingsList from '../../trade/FindingsList.vue'
import { figure } from '../../kit/quantity'
import { END_WORDS, percent, spread, watts } from '../../trade/format'
import ProblemNote from '../../kit/ProblemNote.vue'
import Trail from '../../kit/Trail.vue'
import FileDrop from '../../kit/FileDrop.vue'
import './outside.css'
import { channelName, channelsRead, groupOf, number, runOf } from './outsideRun'
import RecordingChart from './RecordingChart.vue'
import { QUANTITY_WORDS, missing, ofChannel, proposed, rowsOf } from './recordingRows'
import type { ColumnDraft } from './recordingRows'
import RunFields from './RunFields.vue'
import { send } from './upload'
import type { Sending } from './upload'

const props = defineProps<{ id: number }>()
const { data: unit, error } = useUnit(() => props.id)
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const person = useWho()
const problem = ref<unknown>(null)
const file = computed(() => (typeof route.query.file === 'string' ? route.query.file : ''))

const key = `rulvek.recorded.${props.id}`
const EMPTY = {
  mode: 'certified' as Mode,
  group: '',
  load: 4 as number | '',
  load_measured: '' as number | '',
  bridged: false,
  instrument: '',
  accuracy: 1 as number | '',
  start_volts: '' as number | '',
  loaded_volts: '' as number | '',
  amps: '' as number | '',
  clamp_zeroed: false,
  controls: false,
  all_loaded: true,
  remark: '',
  rate: '' as number | '',
  of: '',
  columns: [] as ColumnDraft[],
}
const sheet = reactive(stored(localStorage, key, EMPTY))
watch(sheet, (now) => localStorage.setItem(key, JSON.stringify(now)))

const groups = computed(() => unit.value?.model.groups ?? [])
const group = computed(() => groupOf(sheet, groups.value))
const channels = computed(() => channelsRead(sheet, group.value))

// Sending
const sending = ref<Sending | null>(null)
const sent = ref(0)
async function take(dropped: File) {
  problem.value = null
  sent.value = 0
  try {
    if (file.value) await letGo()
    sending.value = send(dropped, (share) => (sent.value = share))
    const arrived = await sending.value.done
    queries.setQueryData(['recording', arrived.id], arrived)
    await router.replace({ query: { file: arrived.id } })
  } catch (failure) {
    problem.value = failure
  } finally {
    sending.value = null
  }
}

// The recording as the server has it
const { data: recording, error: gone } = useQuery({
  queryKey: ['recording', file],
  enabled: computed(() => file.value !== ''),
  retry: false,
  refetchInterval: (query) => ((query.state.data as RecordingView | undefined)?.state === 'reading' ? 250 : false),
  queryFn: () =>
    answered(client.GET('/api/recordings/{recording_id}', { params: { path: { recording_id: file.value } } })),
})
watch([recording, channels], ([now], [before]) => {
  if (now && channels.value.length && (sheet.of !== now.id || (before && sheet.columns.length === 0))) {
    sheet.of = now.id
    sheet.columns = proposed(now.layout, channels.value)
  }
})
const left = computed(() => (recording.value ? missing(sheet.columns, recording.value.layout, sheet.rate) : ''))
const reading = computed(() => recording.value?.state === 'reading')
const shown = ref<number | null>(null)
const channel = computed(() => shown.value ?? recording.value?.found?.envelopes[0]?.channel ?? 1)
const attempt = computed(() => recording.value?.attempt ?? null)
/** The reading's own row is in view, however many stretches there are. */
const list = ref<HTMLElement>()
watch(
  [list, attempt],
  () => {
    const row = list.value?.querySelector<HTMLElement>('tr.chosen')
    if (row && list.value) list.value.scrollTop = row.offsetTop - list.value.clientHeight / 2
  },
  { flush: 'post' },
)
const KIND_WORDS = { steady: 'A steady tone', sweep: 'Levels', bursts: 'Bursts' } as const

const path = () => ({ params: { path: { recording_id: file.value } } })
async function act(work: () => Promise<unknown>) {
  problem.value = null
  try {
    await work()
  } catch (failure) {
    problem.value = failure
  }
  await queries.invalidateQueries({ queryKey: ['recording'] })
}
const read = () =>
  act(async () => {
    const time = sheet.columns.findIndex((c) => c.quantity === 'time')
    const body = {
      unit_id: props.id,
      run: runOf(sheet, group.value),
      rows: rowsOf(sheet.columns),
      instrument: sheet.instrument,
      accuracy_percent: sheet.accuracy || 0,
      load_measured: number(sheet.load_measured),
      time_column: time < 0 ? null : time,
      sample_rate: time < 0 ? number(sheet.rate) : null,
      start_volts: number(sheet.start_volts),
      loaded_volts: number(sheet.loaded_volts),
      amps: number(sheet.amps),
      clamp_zeroed: sheet.amps === '' ? null : sheet.clamp_zeroed,
      controls_in_position: sheet.controls,
      all_loaded: sheet.all_loaded,
      remark: sheet.remark,
    }
    const begun = await answered(client.POST('/api/recordings/{recording_id}/read', { ...path(), body }))
    queries.setQueryData(['recording', file.value], begun)
  })
const stop = () => act(() => answered(client.POST('/api/recordings/{recording_id}/stop', path())))
async function letGo() {
  await client.DELETE('/api/recordings/{recording_id}', path())
  await router.replace({ query: {} })
}
const keep = () =>
  act(async () => {
    if (!(await person.required())) return
    const kept = await answered(client.POST('/api/recordings/{recording_id}/keep', path()))
    localStorage.removeItem(key)
    refreshEvidence(queries)
    await router.push(`/attempts/${kept.attempt_id}`)
  })
const size = (bytes: number) => (bytes < 1e6 ? `${figure(bytes / 1e3, 0)} kB` : `${figure(bytes / 1e6, 1)} MB`)
</script>

<template>
  <ProblemNote v-if="error" :error="error" />
  <div v-if="unit" class="outside">
    <Trail
      :steps="[
        { name: unit.model.series_name },
        { name: unit.model.name, to: `/models/${unit.model.id}` },
        { name: unit.unit.serial, to: `/units/${unit.unit.id}` },
        { name: 'A recording' },
      ]"
    />
    <header class="head">
      <h1>
        A recording <span class="mono quiet">{{ unit.unit.serial }}</span>
      </h1>
      <p v-if="recording" class="quiet">
        {{ recording.name }}, {{ size(recording.bytes) }}
        <button class="plain" @click="letGo">Take another file</button>
      </p>
    </header>
    <ProblemNote v-if="problem" :error="problem" />

    <FileDrop v-if="!recording" accept=".wav,.csv,.txt,.tsv" @file="take">
      <template v-if="sending">
        <span>Sending, {{ figure(100 * sent, 0) }} %</span>
        <progress :value="sent" aria-label="Sent" />
        <button class="plain" @click.prevent="sending.stop()">Stop</button>
      </template>
      <template v-else>
        <strong>Drop a capture here, or choose a file</strong>
        <span class="quiet"
          >WAV, or CSV of time, volts and amps, up to 500 MB: a steady tone, a level sweep or bursts. What it holds is
          found by itself.</span
        >
        <span v-if="gone" class="quiet">The file that was here before is gone; drop it again.</span>
      </template>
    </FileDrop>

    <div v-else class="two">
      <form @submit.prevent="read">
        <RunFields v-model="sheet" :groups="groups" />
        <fieldset class="wide">
          <legend>Columns</legend>
          <table class="figures columns">
            <tbody>
              <tr v-for="(c, i) in sheet.columns" :key="i">
                <td>
                  {{ recording.layout.columns[i]?.name }}
                  <span v-if="recording.layout.preview[0]" class="quiet mono"
                    >{{ recording.layout.preview[0][i] }} …</span
                  >
                </td>
                <td>
                  <select v-model="c.quantity" :aria-label="`What column ${i + 1} is`">
                    <template v-for="(words, quantity) in QUANTITY_WORDS" :key="quantity">
                      <option v-if="quantity !== 'time' || recording.layout.kind === 'csv'" :value="quantity">
                        {{ words }}
                      </option>
                    </template>
                  </select>
                </td>
                <td>
                  <select v-if="ofChannel(c.quantity)" v-model="c.channel" :aria-label="`Channel of column ${i + 1}`">
                    <option v-for="n in channels" :key="n" :value="n">
                      channel {{ channelName(n, sheet.bridged) }}
                    </option>
                  </select>
                </td>
                <td>
                  <label v-if="c.quantity && c.quantity !== 'time'" class="factor">
                    <span>{{ recording.layout.kind === 'wav' ? '1.0 is' : '×' }}</span>
                    <input
                      v-model.number="c.factor"
                      type="number"
                      step="any"
                      :aria-label="`Factor of column ${i + 1}`"
                    />
                    <span v-if="recording.layout.kind === 'wav'">{{ c.quantity.endsWith('amps') ? 'A' : 'V' }}</span>
                  </label>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="recording.layout.kind === 'csv'" class="quiet told">
            Told from the file: separated by
            {{ { ',': 'commas', ';': 'semicolons', '\t': 'tabs', ' ': 'blanks' }[recording.layout.separator] }}, decimal
            {{ recording.layout.decimal === ',' ? 'comma' : 'point' }}, {{ recording.layout.header_lines }} lines of
            heading.
            <label v-if="!sheet.columns.some((c) => c.quantity === 'time')"
              >Samples in a second <input v-model.number="sheet.rate" type="number" step="any" min="1"
            /></label>
          </p>
          <p v-else class="quiet told">{{ figure(recording.layout.sample_rate, 0) }} samples in a second</p>
        </fieldset>
        <fieldset>
          <legend>What no column tells</legend>
          <label class="name">Recorded with <input v-model="sheet.instrument" type="text" maxlength="120" /></label>
          <label>± % of volts <input v-model.number="sheet.accuracy" type="number" step="any" min="0" /></label>
          <label>Supply before, V <input v-model.number="sheet.start_volts" type="number" step="any" min="1" /></label>
          <label>Loaded, V <input v-model.number="sheet.loaded_volts" type="number" step="any" min="1" /></label>
          <label>Current, A <input v-model.number="sheet.amps" type="number" step="any" min="0" /></label>
          <label v-if="sheet.amps !== ''" class="check"
            ><input v-model="sheet.clamp_zeroed" type="checkbox" /> clamp was zeroed</label
          >
          <label class="check"><input v-model="sheet.controls" type="checkbox" /> controls in position</label>
          <label class="check"><input v-model="sheet.all_loaded" type="checkbox" /> all channels loaded</label>
        </fieldset>
        <label class="remark">Remark <input v-model="sheet.remark" type="text" maxlength="2000" /></label>
        <p v-if="left" class="quiet">{{ left }}</p>
        <a-button html-type="submit" :type="attempt ? 'default' : 'primary'" size="large" :disabled="!!left || reading">
          {{ attempt ? 'Read it again' : 'Read it' }} <kbd>Enter</kbd>
        </a-button>
      </form>

      <aside aria-live="polite">
        <div v-if="reading" class="working">
          <span>{{ recording.doing }}</span>
          <progress :value="recording.done" :aria-label="recording.doing" />
          <a-button @click="stop">Stop</a-button>
        </div>
        <p v-else-if="recording.state === 'failed'" class="failed" role="alert">{{ recording.problem }}</p>
        <p v-else-if="recording.state === 'stopped'" class="quiet">Stopped. The file is still here.</p>
        <p v-else-if="recording.state === 'laid out'" class="quiet">
          Say what the columns are, then read it: the wave and what is found on it appear here.
        </p>
        <template v-if="recording.found && attempt">
          <p class="what">
            {{ KIND_WORDS[recording.found.kind] }} of {{ figure(recording.found.tone_hz, 2) }} Hz
            <template v-if="recording.found.burst">, {{ recording.found.burst }} each</template>
            <span v-if="recording.found.envelopes.length > 1" class="channels">
              <button
                v-for="e in recording.found.envelopes"
                :key="e.channel"
                :aria-pressed="e.channel === channel"
                @click="shown = e.channel"
              >
                {{ channelName(e.channel, sheet.bridged) }}
              </button>
            </span>
          </p>
          <RecordingChart :found="recording.found" :channel="channel" />
          <div class="result">
            <p class="main">
              <span class="mono">{{ watts(attempt.weakest_watts, attempt.expanded_watts) }}</span> W
              <span class="quiet small"
                >± {{ spread(attempt.expanded_watts) }} W, weakest ·
                {{ attempt.end ? END_WORDS[attempt.end] : '' }}</span
              >
            </p>
            <a-button type="primary" size="large" @click="keep">Keep it as evidence</a-button>
          </div>
          <div ref="list" class="sections">
            <table class="figures">
              <thead>
                <tr>
                  <th class="num">From, s</th>
                  <th class="num">Weakest, W</th>
                  <th class="num">THD+N, %</th>
                  <th></th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="s in recording.found.sections" :key="s.start" :class="{ chosen: s.chosen }">
                  <td class="num">{{ figure(s.start, 2) }}</td>
                  <td class="num">{{ watts(s.weakest_watts) }}</td>
                  <td class="num">{{ percent(s.worst_thd_n_percent) }}</td>
                  <td>{{ s.chosen ? 'the reading' : '' }}</td>
                </tr>
              </tbody>
            </table>
          </div>
          <FindingsList :findings="attempt.findings" />
        </template>
      </aside>
    </div>
  </div>
</template>

<style scoped>
h1 .mono {
  font-weight: 400;
  font-size: 18px;
  margin-left: 6px;
}
progress {
  width: 320px;
  accent-color: var(--certified);
}
.two {
  display: grid;
  grid-template-columns: 1.1fr 1fr;
  gap: 40px;
  padding-top: 14px;
}
.wide {
  grid-template-columns: 1fr;
}
.columns td {
  padding: 3px 8px 3px 0;
  vertical-align: middle;
  white-space: nowrap;
}
.factor {
  display: flex;
  align-items: center;
  gap: 6px;
}
.factor input {
  width: 84px;
}
.told {
  font-size: 14px;
}
form kbd {
  margin-left: 8px;
  color: inherit;
  border-color: currentColor;
}
.working {
  display: grid;
  justify-items: start;
  gap: 8px;
}
.failed {
  padding: 8px 12px;
  border-left: 3px solid var(--danger);
  background: var(--sheet);
}
.what {
  display: flex;
  gap: 6px;
  padding-bottom: 6px;
  font-weight: 600;
}
.channels {
  margin-left: auto;
}
.channels button {
  font: inherit;
  font-weight: 400;
  color: inherit;
  background: none;
  border: none;
  border-bottom: 2px solid transparent;
  padding: 0 8px;
  cursor: pointer;
}
.channels button[aria-pressed='true'] {
  border-bottom-color: var(--certified);
}
.result {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 16px;
  padding: 8px 0;
}
.outside .main {
  font-size: 40px;
}
.small {
  display: block;
  font-size: 14px;
}
.sections {
  position: relative;
  max-height: 232px;
  overflow-y: auto;
}
.sections th {
  position: sticky;
  top: 0;
  background: var(--paper);
}
.sections td {
  padding-block: 3px;
}
.chosen td {
  background: var(--selected);
  font-weight: 600;
}
</style>
