<script setup lang="ts">
// The traces of a run as they grow: THD+N against power, the burst, and the supply.
import { computed } from 'vue'
import type { PointView, PulsesView, RunView, StepView } from '../../api/types'
import ChartFrame from '../../kit/ChartFrame.vue'
import type { Trace } from '../../kit/ChartFrame.vue'
import { channelName } from '../../trade/format'
import { calledIn, sweepTraces } from '../../trade/traces'
import DistortionChart from './DistortionChart.vue'
import PulseChart from './PulseChart.vue'
import SupplyChart from './SupplyChart.vue'

const props = defineProps<{
  run: RunView
  points: readonly PointView[]
  pulses: PulsesView | null
  steps: readonly StepView[]
  limits: { percent: number; word: string }[]
  marks: { watts: number; word: string }[]
}>()
const ofSweep = computed(() => sweepTraces(props.run.channels, calledIn(props.run), props.points))
const ofSupply = computed<Trace[]>(() => {
  const rows = props.steps.filter((s) => s.point)
  return [
    { head: 'Time', unit: 's', values: rows.map((s) => s.at_seconds), decimals: 1 },
    { head: 'Supply', unit: 'V', values: rows.map((s) => s.point!.supply_volts ?? null), decimals: 2 },
    { head: 'Current', unit: 'A', values: rows.map((s) => s.point!.supply_amps ?? null), decimals: 1 },
  ]
})
</script>

<template>
  <ChartFrame title="Level sweep" :traces="ofSweep" log>
    <DistortionChart
      :points="points"
      :channels="run.channels"
      :limits="limits"
      :marks="marks"
      :height="run.mode === 'burst' ? 224 : 324"
    />
  </ChartFrame>
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
  <ChartFrame title="Supply over time" :traces="ofSupply">
    <SupplyChart :steps="steps" :height="run.mode === 'burst' ? 136 : 150" :amps="run.mode !== 'burst'" />
  </ChartFrame>
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
.legend .right svg + svg {
  margin-left: 12px;
}
</style>
