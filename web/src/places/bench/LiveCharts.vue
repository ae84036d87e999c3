<script setup lang="ts">
// The traces of a run as they grow: THD+N against power, the burst, and the supply.
import type { PointView, PulsesView, RunView, StepView } from '../../api/types'
import { channelName } from '../../trade/format'
import DistortionChart from './DistortionChart.vue'
import PulseChart from './PulseChart.vue'
import SupplyChart from './SupplyChart.vue'

defineProps<{
  run: RunView
  points: readonly PointView[]
  pulses: PulsesView | null
  steps: readonly StepView[]
  limits: { percent: number; word: string }[]
  marks: { watts: number; word: string }[]
}>()
</script>

<template>
  <DistortionChart
    :points="points"
    :channels="run.channels"
    :limits="limits"
    :marks="marks"
    :height="run.mode === 'burst' ? 240 : 340"
  />
  <p class="legend quiet">
    <span v-for="(c, index) in run.channels" :key="c">
      <svg width="26" height="8" aria-hidden="true">
        <line
          x1="0"
          x2="26"
          y1="4"
          y2="4"
          :stroke="`var(--ch-${(index % 5) + 1})`"
          stroke-width="2"
          :stroke-dasharray="index % 2 ? '5 3' : undefined"
        />
      </svg>
      {{ run.bridged ? 'pair' : 'channel' }} {{ channelName(run, c) }}
    </span>
    <span class="right">
      <svg width="26" height="8" aria-hidden="true">
        <line x1="0" x2="26" y1="4" y2="4" stroke="var(--supply)" stroke-width="2" />
      </svg>
      volts
      <template v-if="run.mode !== 'burst'">
        <svg width="26" height="8" aria-hidden="true">
          <line x1="0" x2="26" y1="4" y2="4" stroke="var(--ink-2)" stroke-width="2" stroke-dasharray="5 3" />
        </svg>
        amps
      </template>
    </span>
  </p>
  <PulseChart v-if="run.mode === 'burst' && pulses" :pulses="pulses" :height="92" />
  <SupplyChart :steps="steps" :height="run.mode === 'burst' ? 150 : 170" :amps="run.mode !== 'burst'" />
</template>

<style scoped>
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  font-size: 13px;
  padding: 2px 4px 6px 54px;
}
.legend svg {
  vertical-align: middle;
}
.legend .right {
  margin-left: auto;
}
</style>
