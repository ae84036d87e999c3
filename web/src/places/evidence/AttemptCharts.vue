<script setup lang="ts">
// What an attempt looked like: its wave and spectrum channel by channel, and the level sweep that led to it.
import { computed } from 'vue'
import { useSpectrum, useWave } from '../../api/queries'
import type { AttemptPage } from '../../api/types'
import { useAddressNumber } from '../../kit/address'
import ChartFrame from '../../kit/ChartFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import ChannelPicker from '../../trade/ChannelPicker.vue'
import { percent } from '../../trade/format'
import { calledIn, spectrumTraces, sweepTraces, waveTraces } from '../../trade/traces'
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

const called = computed(() => calledIn(props.page.run))
const ofSweep = computed(() => sweepTraces(props.page.run.channels, called.value, props.page.points))
</script>

<template>
  <section v-if="page.captures.length" class="panel">
    <header>
      <h2>Wave</h2>
      <ChannelPicker
        :model-value="channel"
        :channels="page.run.channels"
        :called="called"
        @update:model-value="picked = $event"
      />
    </header>
    <ChartFrame v-if="wave" :title="`Wave, channel ${called(channel)}`" :traces="waveTraces(wave)">
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
    <ChartFrame v-if="spectrum" :title="`Spectrum, channel ${called(channel)}`" :traces="spectrumTraces(spectrum)" log>
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
