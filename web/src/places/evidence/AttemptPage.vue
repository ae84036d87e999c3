<script setup lang="ts">
// One attempt: its reading, wave, spectrum, level sweep, conditions, files and history.
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useWho } from '../../kit/who'
import { refreshEvidence, useAttempt, useSpectrum, useWave } from '../../api/queries'
import { figure } from '../../kit/quantity'
import {
  CAUSES,
  END_WORDS,
  U_HOLDS,
  channelName,
  channelNames,
  decibels,
  moment,
  percent,
  place,
  spread,
  watts,
} from '../../trade/format'
import FindingsList from '../../trade/FindingsList.vue'
import HistoryList from '../../trade/HistoryList.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import ReasonDialog from '../../kit/ReasonDialog.vue'
import Trail from '../../kit/Trail.vue'
import VerdictMark from '../../trade/VerdictMark.vue'
import DistortionChart from '../bench/DistortionChart.vue'
import AttemptsList from './AttemptsList.vue'
import BudgetTable from './BudgetTable.vue'
import SecondInstrument from './SecondInstrument.vue'
import SpectrumChart from './SpectrumChart.vue'
import WaveChart from './WaveChart.vue'

const props = defineProps<{ id: number }>()
const { data: page, error } = useAttempt(() => props.id)
const picked = ref<number | null>(null)
/** A reading by hand has no capture to look at. */
const kept = computed(() => !!page.value?.captures.length)
const channel = computed(() => picked.value ?? page.value?.run.channels[0] ?? 1)
const { data: wave, error: waveError } = useWave(() => props.id, channel, kept)
const { data: spectrum } = useSpectrum(() => props.id, channel, kept)
const attempt = computed(() => page.value?.attempt)
/** Verdicts that rest on this attempt; a repeat of the run takes them along. */
const verdicts = computed(() => page.value?.run.verdicts.filter((v) => v.attempt_id === attempt.value?.id) ?? [])
const why = computed(() => {
  const cause = attempt.value?.cause as keyof typeof CAUSES | null | undefined
  return [cause && cause !== 'other' ? CAUSES[cause] : '', attempt.value?.reason].filter(Boolean).join(': ')
})
const limits = computed(() => {
  const percentOf = (key: string) => Number(page.value?.method[key])
  const certified = { percent: percentOf('thd_n_limit_percent'), word: `limit ${percentOf('thd_n_limit_percent')} %` }
  const clipping = percentOf('uncertified_limit_percent')
  return page.value?.run.mode === 'uncertified'
    ? [certified, { percent: clipping, word: `clipping ${clipping} %` }]
    : [certified]
})
const queries = useQueryClient()
const person = useWho()
const overruling = ref<string | null>(null)
const problem = ref<unknown>(null)

async function overrule(reason: string) {
  const code = overruling.value
  if (code === null || !(await person.required())) return
  problem.value = null
  try {
    const params = { path: { attempt_id: props.id } }
    await answered(client.POST('/api/attempts/{attempt_id}/overrulings', { params, body: { code, reason } }))
    overruling.value = null
    refreshEvidence(queries)
    await queries.invalidateQueries({ queryKey: ['attempt'] })
  } catch (failure) {
    problem.value = failure
  }
}
const METHOD_WORDS: Record<string, string> = {
  thd_n_limit_percent: 'THD+N limit (%)',
  band_low_hz: 'Band from (Hz)',
  band_high_hz: 'Band to (Hz)',
  bracket_db: 'Level bracket (dB)',
  dwell_seconds: 'Dwell (s)',
  reference_volts: 'Reference supply (V)',
  companion_level_db: 'Other channels driven at (dB)',
}
const method = computed(() =>
  Object.entries(METHOD_WORDS).map(([key, words]) => ({
    words,
    value: page.value?.method[key],
    origin: page.value?.method_origins[key],
  })),
)
</script>

<template>
  <ProblemNote v-if="error" :error="error" />
  <template v-if="page && attempt">
    <Trail
      :steps="[
        { name: page.model_name, to: `/models/${page.model_id}` },
        { name: page.unit_serial, to: `/units/${page.unit_id}` },
        { name: `Campaign ${page.campaign_id}`, to: `/campaigns/${page.campaign_id}` },
        { name: `Run ${attempt.id}` },
      ]"
    />
    <header class="head">
      <div>
        <h1>
          {{ place(page.run) }}
          <span class="quiet"
            >{{ page.run.group }},
            {{ page.run.burst ? `burst “${page.run.burst}”` : `${Number(page.run.tone_hz.toFixed(2))} Hz` }},
            {{ page.run.mode }}</span
          >
          <span v-if="page.run.exploratory" class="mark">not evidence</span>
        </h1>
        <p class="quiet">
          {{ attempt.started_by }}, {{ moment(attempt.started_at) }} · attempt {{ attempt.number }}
          <template v-if="attempt.origin === 'typed'"> · typed, read with {{ attempt.instrument }}</template>
          <template v-if="attempt.origin === 'table'"> · from the table {{ attempt.file }}</template>
          <template v-if="attempt.origin === 'recorded'">
            · recorded with {{ attempt.instrument }}:
            <a :href="`/api/attempts/${attempt.id}/original`" download>{{ attempt.file }}</a></template
          >
          <template v-if="why"> (“{{ why }}”)</template> ·
          <span :class="{ danger: !attempt.at_limit }">{{ attempt.end ? END_WORDS[attempt.end] : 'running' }}</span>
          <template v-if="attempt.fault"> – {{ attempt.fault }}</template>
        </p>
      </div>
      <p v-if="attempt.weakest_watts !== null" class="big">
        <span class="mono">{{ watts(attempt.weakest_watts, attempt.expanded_watts) }}</span> W
        <span class="quiet"
          >± {{ spread(attempt.expanded_watts) }} W, weakest {{ page.run.bridged ? 'pair' : 'channel' }}</span
        >
      </p>
    </header>

    <ul v-if="attempt.skipped.length" class="skipped">
      <li v-for="what in attempt.skipped" :key="what">{{ what }}</li>
    </ul>
    <FindingsList :findings="attempt.findings" may-overrule @overrule="overruling = $event" />
    <ProblemNote v-if="problem" :error="problem" />
    <ReasonDialog
      :open="overruling !== null"
      title="Why can this finding be set aside?"
      act="Set it aside"
      hint="The reason is recorded with your name; the finding stays readable."
      @done="overrule"
      @cancel="overruling = null"
    />
    <p v-for="r in attempt.remarks" :key="r.at" class="remark">
      “{{ r.text }}” <span class="quiet">– {{ r.by }}, {{ moment(r.at) }}</span>
    </p>
    <div class="grid">
      <section v-if="page.captures.length" class="panel">
        <header>
          <h2>Wave</h2>
          <div role="group" aria-label="Channel" class="picker">
            <button v-for="c in page.run.channels" :key="c" :aria-pressed="c === channel" @click="picked = c">
              {{ channelName(page.run, c) }}
            </button>
          </div>
        </header>
        <WaveChart v-if="wave" :wave="wave" :height="230" />
        <ProblemNote v-else-if="waveError" :error="waveError" />
      </section>
      <section v-if="page.captures.length" class="panel">
        <header>
          <h2>Spectrum</h2>
          <span v-if="spectrum" class="quiet">
            THD <span class="mono">{{ percent(spectrum.thd_percent) }} %</span> of the fundamental · THD+N
            <span class="mono">{{ percent(spectrum.thd_n_percent) }} %</span> of the whole
          </span>
        </header>
        <SpectrumChart v-if="spectrum" :spectrum="spectrum" :height="230" />
      </section>
      <section v-if="page.points.length" class="panel">
        <header>
          <h2>Level sweep</h2>
          <span class="quiet">{{ page.points.length }} points, all kept</span>
        </header>
        <DistortionChart :points="page.points" :channels="page.run.channels" :limits="limits" :height="250" />
      </section>
      <section class="panel">
        <header>
          <h2>Reading</h2>
          <span class="quiet">{{ U_HOLDS }}</span>
        </header>
        <table class="figures">
          <thead>
            <tr>
              <th scope="col">{{ page.run.bridged ? 'Pair' : 'Channel' }}</th>
              <th class="num" scope="col">Power, W</th>
              <th class="num" scope="col">± U, W</th>
              <th class="num" scope="col">V rms</th>
              <th class="num" scope="col">THD+N, %</th>
              <th class="num" scope="col">Load, Ω</th>
              <th class="num" scope="col">off, %</th>
              <th class="num" scope="col">at nominal,<br />estimated W</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in attempt.readings" :key="c.channel">
              <td>{{ channelName(page.run, c.channel) }}</td>
              <td class="num">{{ watts(c.watts, c.expanded_watts) }}</td>
              <td class="num">{{ spread(c.expanded_watts) }}</td>
              <td class="num">{{ figure(c.volts_rms, 3) }}</td>
              <td class="num">{{ percent(c.thd_n_percent) }}</td>
              <td class="num">{{ figure(c.load_measured, 3) }}</td>
              <td class="num">{{ figure(c.load_off_percent, 1) }}</td>
              <td class="num">{{ watts(c.nominal_watts) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="!attempt.readings.length" class="quiet">This attempt ended before there was a reading.</p>
        <SecondInstrument v-if="attempt.readings.length" :page="page" />
        <ul class="verdicts">
          <li v-for="v in verdicts" :key="v.claim_id">
            <VerdictMark :kind="v.kind" :doubted="!!v.doubts.length" /> – {{ v.reason }}
          </li>
        </ul>
      </section>
    </div>

    <div class="three">
      <section class="section">
        <header><h2>Conditions</h2></header>
        <dl>
          <dt>Supply before → at reading</dt>
          <dd>{{ figure(attempt.start_volts, 2) }} → {{ figure(attempt.supply_volts, 2) }} V</dd>
          <dt>Lowest, sag</dt>
          <dd>{{ figure(attempt.supply_lowest, 2) }} V, {{ figure(attempt.sag_volts, 2) }} V</dd>
          <dt>
            Current
            <template v-if="page.clamp_zero_amps !== null"
              >(clamp zero {{ figure(page.clamp_zero_amps, 2) }} A taken off)</template
            >
          </dt>
          <dd>{{ figure(attempt.supply_amps, 1) }} A</dd>
          <dt>Efficiency</dt>
          <dd>{{ figure(attempt.efficiency_percent, 1) }} %</dd>
          <dt>Heat sink, hottest load</dt>
          <dd>{{ figure(attempt.temperature_c, 1) }} °C, {{ figure(attempt.load_c, 1) }} °C</dd>
          <template v-if="attempt.largest_watts !== null">
            <dt>Largest burst</dt>
            <dd>{{ watts(attempt.largest_watts) }} W</dd>
          </template>
          <template v-if="page.run.headroom_db !== null && attempt.id === page.run.chosen?.id">
            <dt>Headroom over certified</dt>
            <dd>{{ decibels(page.run.headroom_db) }} dB</dd>
          </template>
          <template v-if="attempt.equivalent">
            <dt>Stands for</dt>
            <dd>{{ attempt.equivalent }}</dd>
          </template>
          <dt>{{ attempt.origin === 'recorded' ? 'Level recorded' : 'Source level' }}, bracket</dt>
          <dd>{{ figure(attempt.level_dbv, 2) }} dBV, {{ figure(attempt.bracket_db, 3) }} dB</dd>
          <template v-for="c in page.run.companions" :key="c.channels[0]">
            <dt>Channel {{ channelNames(c.channels) }}, driven</dt>
            <dd>{{ c.ohms }} Ω</dd>
          </template>
        </dl>
      </section>
      <section class="section">
        <header><h2>Method</h2></header>
        <dl>
          <template v-for="m in method" :key="m.words">
            <dt :title="m.origin">{{ m.words }}</dt>
            <dd>{{ m.value }}</dd>
          </template>
        </dl>
        <p v-for="(value, name) in page.bench" :key="name" class="quiet small">{{ name }}: {{ value }}</p>
      </section>
      <section class="section">
        <header><h2>Files and history</h2></header>
        <p v-for="f in page.captures" :key="f.id" class="file">
          <a :href="`/api/attempts/${attempt.id}/capture.wav`" download class="mono">{{ f.path }}</a>
          <span :class="f.intact ? 'quiet' : 'danger'">{{
            f.intact ? 'fingerprint intact' : 'not the file that was kept'
          }}</span>
          <span class="quiet mono small sha" :title="f.sha256">SHA-256 {{ f.sha256.slice(0, 16) }}…</span>
        </p>
        <HistoryList :entries="page.history" :most="6" />
      </section>
    </div>
    <BudgetTable v-if="page.budget" :budget="page.budget" />
    <AttemptsList :run="page.run" :shown="attempt.id" />
  </template>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: flex-end;
  gap: 24px;
  margin-bottom: 14px;
}
h1 .quiet {
  font-weight: 400;
  font-size: 16px;
}
.mark {
  border: 1px solid var(--doubt);
  color: var(--doubt);
  padding: 0 5px;
  font-size: 13px;
  font-weight: 400;
}
.skipped {
  margin: 0 0 10px;
  padding: 8px 12px 8px 28px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
.remark {
  margin-bottom: 10px;
}
.big {
  font-size: 22px;
  white-space: nowrap;
}
.big .mono {
  font-size: 28px;
  color: var(--certified);
}
.big .quiet {
  font-size: 14px;
}
.grid {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 14px;
}
.panel {
  background: var(--sheet);
  padding: 10px 14px;
}
.panel > header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  font-size: 14px;
  min-height: 28px;
}
.picker button {
  font: 13px var(--mono);
  min-width: 26px;
  padding: 1px 7px;
  color: var(--ink-2);
  background: none;
  border: 1px solid var(--rule);
  cursor: pointer;
}
.picker button[aria-pressed='true'] {
  color: var(--ink);
  border-color: var(--certified);
  background: var(--selected);
}
.three {
  display: grid;
  grid-template-columns: 1fr 1fr 1.2fr;
  gap: 32px;
}
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 12px;
  margin: 8px 0;
  font-size: 14px;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  font-family: var(--mono);
  text-align: right;
}
.small {
  font-size: 13px;
}
.file span {
  margin-left: 10px;
  font-size: 13px;
}
.sha {
  display: block;
  margin-left: 0 !important;
}
.verdicts {
  list-style: none;
  padding: 0;
  margin: 8px 0 0;
  font-size: 14px;
}
</style>
