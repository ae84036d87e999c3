<script setup lang="ts">
// One run of a job: its readings and supply, the level sweep, and a channel's wave and spectrum.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import type { PracticeJobView } from '../../api/types'
import ChartFrame from '../../kit/ChartFrame.vue'
import type { Trace } from '../../kit/ChartFrame.vue'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'
import ChannelPicker from '../../trade/ChannelPicker.vue'
import { END_WORDS, MODE_WORDS, hertz, percent } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'
import { spectrumTraces, sweepTraces, waveTraces } from '../../trade/traces'
import DistortionChart from '../bench/DistortionChart.vue'
import SpectrumChart from '../evidence/SpectrumChart.vue'
import WaveChart from '../evidence/WaveChart.vue'

const props = defineProps<{ job: PracticeJobView; run: PracticeJobView['runs'][number] }>()
type Reading = PracticeJobView['runs'][number]['readings'][number]
const picked = ref<number | null>(null)
const channel = computed(() => picked.value ?? props.run.channels[0] ?? 1)
const called = (one: number) => (props.job.bridged ? `${one}+${one + 1}` : String(one))
const { data: seen } = useQuery({
  queryKey: ['practice-channel', () => props.job.id, () => props.run.number, channel],
  enabled: () => props.run.has_wave,
  staleTime: Infinity,
  queryFn: () =>
    answered(
      client.GET('/api/practice/{job_id}/runs/{run}/channels/{channel}', {
        params: { path: { job_id: props.job.id, run: props.run.number, channel: channel.value } },
      }),
    ),
})
const byPeak = computed(() => props.run.read_by === 'peak')
const columns = computed<Column<Reading>[]>(() => [
  {
    key: 'channel',
    head: props.job.bridged ? 'Pair' : 'Channel',
    text: (r) => called(r.channel),
    unsorted: true,
  },
  byPeak.value
    ? { key: 'volts', head: 'Output', unit: 'V peak', num: true, text: (r) => figure(r.volts_peak, 1), unsorted: true }
    : { key: 'volts', head: 'Output', unit: 'V rms', num: true, text: (r) => figure(r.volts_rms, 2), unsorted: true },
  { key: 'watts', head: 'Power', unit: 'W', num: true, text: (r) => figure(r.watts, 1), unsorted: true },
  { key: 'thd', head: 'THD+N', unit: '%', num: true, text: (r) => percent(r.thd_n_percent), unsorted: true },
])
const sweep = computed<Trace[]>(() => [
  ...sweepTraces(props.run.channels, called, props.run.points),
  { head: 'Supply', unit: 'V', values: props.run.points.map((p) => p.supply_volts), decimals: 2 },
])
</script>

<template>
  <section :id="`run-${run.number}`" class="panel">
    <header>
      <h2><ModeMark :mode="run.mode" /> {{ MODE_WORDS[run.mode] }} at {{ hertz(run.tone_hz) }}</h2>
      <span class="quiet">
        driven: {{ run.driven.join(', ') }} · {{ END_WORDS[run.end] ?? run.end }} · {{ run.points.length }} points
      </span>
    </header>
    <div class="figures">
      <DataTable
        v-if="run.readings.length"
        :id="(r) => r.channel"
        :name="`Reading of run ${run.number}`"
        :rows="run.readings"
        :columns="columns"
        plain
      />
      <p v-else class="none">No level was within the limit: there is no reading.</p>
      <dl class="supply">
        <dt>Supply at the reading</dt>
        <dd class="mono">{{ run.supply_volts === null ? 'not read' : `${figure(run.supply_volts, 2)} V` }}</dd>
        <dt>Current</dt>
        <dd class="mono">{{ run.supply_amps === null ? 'not read' : `${figure(run.supply_amps, 1)} A` }}</dd>
        <dt>Output ÷ supply</dt>
        <dd class="mono">
          {{ run.efficiency_percent === null ? 'none' : `${figure(run.efficiency_percent, 0)} %` }}
        </dd>
        <template v-if="byPeak">
          <dt>Worked out as</dt>
          <dd>Vpk² / 2R</dd>
        </template>
      </dl>
    </div>
    <ChartFrame v-if="run.points.length" title="Level sweep" :traces="sweep" log>
      <DistortionChart
        :points="run.points"
        :channels="run.channels"
        :limits="[{ percent: run.limit_percent, word: `limit ${run.limit_percent} %` }]"
        :height="200"
      />
    </ChartFrame>
    <template v-if="run.has_wave">
      <ChannelPicker
        class="picker"
        :model-value="channel"
        :channels="run.channels"
        :called="called"
        @update:model-value="picked = $event"
      />
      <div v-if="seen" class="charts">
        <ChartFrame :title="`Wave, ${called(channel)}`" :traces="waveTraces(seen.wave)">
          <WaveChart :wave="seen.wave" :height="190" />
        </ChartFrame>
        <ChartFrame :title="`Spectrum, ${called(channel)}`" :traces="spectrumTraces(seen.spectrum)" log>
          <SpectrumChart :spectrum="seen.spectrum" :height="190" />
        </ChartFrame>
      </div>
    </template>
  </section>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: baseline;
}
.figures {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 10px 28px;
  align-items: start;
}
.supply {
  display: grid;
  grid-template-columns: max-content max-content;
  gap: 3px 14px;
  margin: 6px 0;
}
.supply dt {
  color: var(--ink-2);
}
.supply dd {
  margin: 0;
  text-align: right;
}
.charts {
  display: grid;
  grid-template-columns: 2fr 3fr;
  gap: 10px;
}
.none {
  padding: 10px 0;
}
.picker {
  margin: 8px 0 4px;
}
@media (max-width: 640px) {
  .charts,
  .figures {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
