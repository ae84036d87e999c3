<script setup lang="ts">
// What an attempt looked like: its wave and spectrum channel by channel, and the level sweep that led to it.
import { computed } from 'vue'
import { useSpectrum, useWave } from '../../api/queries'
import type { AttemptPage } from '../../api/types'
import { useAddressNumber } from '../../kit/address'
import ChartFrame from '../../kit/ChartFrame.vue'
import type { Trace } from '../../kit/ChartFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { channelName, percent } from '../../trade/format'
import { sweepTraces } from '../../trade/sweepTraces'
import DistortionChart from '../bench/DistortionChart.vue'
import SpectrumChart from './SpectrumChart.vue'
import WaveChart from './WaveChart.vue'

const props = defineProps<{ page: AttemptPage }>()
const picked = useAddressNumber('channel')
/** A reading by hand has no capture to look at. */
const kept = computed(() => !!props.page.captures.length)
const channel = computed(() => {
  const { channels } = props.page.run
  return picked.value !== null && channels.includes(picked.value) ? picked.value : (channels[0] ?? 1)
})
const { data: wave, error: waveError } = useWave(() => props.page.attempt.id, channel, kept)
const { data: spectrum } = useSpectrum(() => props.page.attempt.id, channel, kept)
const limits = computed(() => {
  const percentOf = (key: string) => Number(props.page.method[key])
  const certified = { percent: percentOf('thd_n_limit_percent'), word: `limit ${percentOf('thd_n_limit_percent')} %` }
  const clipping = percentOf('uncertified_limit_percent')
  return props.page.run.mode === 'uncertified'
    ? [certified, { percent: clipping, word: `clipping ${clipping} %` }]
    : [certified]
})

const ofWave = computed<Trace[]>(() => [
  { head: 'Time', unit: 'ms', values: wave.value?.milliseconds ?? [] },
  { head: 'Output', unit: 'V', values: wave.value?.volts ?? [], decimals: 4 },
])
const ofSpectrum = computed<Trace[]>(() => [
  { head: 'Frequency', unit: 'Hz', values: spectrum.value?.hz ?? [], decimals: 1 },
  { head: 'Level', unit: 'dB', values: spectrum.value?.db ?? [], decimals: 1 },
])
const ofSweep = computed(() => sweepTraces(props.page.run, props.page.points))
</script>

<template>
  <section v-if="page.captures.length" class="panel">
    <header>
      <h2>Wave</h2>
      <div role="group" aria-label="Channel" class="picker">
        <button v-for="c in page.run.channels" :key="c" :aria-pressed="c === channel" @click="picked = c">
          {{ channelName(page.run, c) }}
        </button>
      </div>
    </header>
    <ChartFrame v-if="wave" :title="`Wave, channel ${channelName(page.run, channel)}`" :traces="ofWave">
      <WaveChart :wave="wave" :height="230" />
    </ChartFrame>
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
    <ChartFrame v-if="spectrum" :title="`Spectrum, channel ${channelName(page.run, channel)}`" :traces="ofSpectrum" log>
      <SpectrumChart :spectrum="spectrum" :height="230" />
    </ChartFrame>
  </section>
  <section v-if="page.points.length" class="panel">
    <header>
      <h2>Level sweep</h2>
      <span class="quiet">{{ page.points.length }} points, all kept</span>
    </header>
    <ChartFrame title="Level sweep" :traces="ofSweep" log>
      <DistortionChart :points="page.points" :channels="page.run.channels" :limits="limits" :height="250" />
    </ChartFrame>
  </section>
</template>

<style scoped>
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
</style>
