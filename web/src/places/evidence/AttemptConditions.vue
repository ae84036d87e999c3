<script setup lang="ts">
// Under which conditions an attempt was made, by which method, and what is kept of it.
import { API } from '../../kit/base'
import { computed } from 'vue'
import type { AttemptPage } from '../../api/types'
import { figure } from '../../kit/quantity'
import { channelNames, decibels, watts } from '../../trade/format'
import HistoryList from '../../trade/HistoryList.vue'

const props = defineProps<{ page: AttemptPage }>()
const attempt = computed(() => props.page.attempt)
/** “ ± 0.9”, or nothing where it is not known. */
const doubt = (u: number | null, decimals: number) => (u === null ? '' : ` ± ${figure(u, decimals)}`)
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
    value: props.page.method[key],
    origin: props.page.method_origins[key],
  })),
)
</script>

<template>
  <div class="three">
    <section class="section">
      <header><h2>Conditions</h2></header>
      <dl>
        <dt>Supply before → at reading</dt>
        <dd>{{ figure(attempt.start_volts, 2) }} → {{ figure(attempt.supply_volts, 2) }} V</dd>
        <dt>Lowest, sag</dt>
        <dd>
          {{ figure(attempt.supply_lowest, 2) }} V, {{ figure(attempt.sag_volts, 3)
          }}{{ doubt(attempt.sag_expanded_volts, 3) }} V
        </dd>
        <dt>
          Current
          <template v-if="page.clamp_zero_amps !== null"
            >(clamp zero {{ figure(page.clamp_zero_amps, 2) }} A taken off)</template
          >
        </dt>
        <dd>{{ figure(attempt.supply_amps, 1) }} A</dd>
        <dt>Efficiency</dt>
        <dd>{{ figure(attempt.efficiency_percent, 1) }}{{ doubt(attempt.efficiency_expanded_percent, 1) }} %</dd>
        <dt>Heat sink, hottest load</dt>
        <dd>{{ figure(attempt.temperature_c, 1) }} °C, {{ figure(attempt.load_c, 1) }} °C</dd>
        <template v-if="attempt.largest_watts !== null">
          <dt>Largest burst</dt>
          <dd>{{ watts(attempt.largest_watts) }} W</dd>
        </template>
        <template v-if="page.run.headroom_db !== null && attempt.id === page.run.chosen?.id">
          <dt>Headroom over certified</dt>
          <dd>{{ decibels(page.run.headroom_db) }}{{ doubt(page.run.headroom_expanded_db, 2) }} dB</dd>
        </template>
        <template v-if="attempt.equivalent">
          <dt>Stands for</dt>
          <dd>{{ attempt.equivalent }}</dd>
        </template>
        <dt>{{ attempt.origin === 'recorded' ? 'Level recorded' : 'Source level' }}, bracket</dt>
        <dd>{{ figure(attempt.level_dbv, 2) }} dBV, {{ figure(attempt.bracket_db, 3) }} dB</dd>
        <template v-for="c in page.run.companions" :key="c.channels[0]">
          <dt>
            Channel {{ channelNames(c.channels) }}, driven
            {{ attempt.companions_full ? 'just below its own certified level' : 'low' }}
          </dt>
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
        <a :href="`${API}/attempts/${attempt.id}/capture.wav`" download class="mono">{{ f.path }}</a>
        <span :class="f.intact ? 'quiet' : 'danger'">{{
          f.intact ? 'fingerprint intact' : 'not the file that was kept'
        }}</span>
        <span class="quiet mono small sha" :title="f.sha256">SHA-256 {{ f.sha256.slice(0, 16) }}…</span>
      </p>
      <HistoryList :entries="page.history" :most="6" />
    </section>
  </div>
</template>

<style scoped>
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
.file a {
  overflow-wrap: anywhere;
}
.file span {
  margin-left: 10px;
  font-size: 13px;
}
.sha {
  display: block;
  margin-left: 0 !important;
}
@media (max-width: 900px) {
  .three {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
