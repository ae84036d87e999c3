<script setup lang="ts">
// Supply volts and amps over the time of an attempt.
import type uPlot from 'uplot'
import { computed } from 'vue'
import type { StepView } from '../../api/types'
import { thinned } from '../../kit/thinned'
import PlotBox from '../../trade/PlotBox.vue'
import { axis } from '../../trade/axes'
import { themeColour } from '../../app/theme/mode'

const props = defineProps<{ steps: readonly StepView[]; height: number; amps: boolean }>()
const data = computed<uPlot.AlignedData>(() => {
  const rows = thinned(props.steps.filter((s) => s.point?.supply_volts != null || s.start_volts !== null))
  return [
    rows.map((s) => s.at_seconds),
    rows.map((s) => s.point?.supply_volts ?? s.start_volts),
    rows.map((s) => s.point?.supply_amps ?? (s.start_volts !== null ? 0 : null)),
  ]
})
const options = (): Omit<uPlot.Options, 'width' | 'height'> => ({
  legend: { show: false },
  cursor: { drag: { x: false, y: false } },
  scales: {
    x: { time: false, range: (_p, low, high) => [low ?? 0, Math.max(high ?? 0, (low ?? 0) + 15)] },
    y: { range: (_p, low, high) => [Math.min((low ?? 14) - 0.2, 11.5), Math.max((high ?? 14) + 0.2, 15)] },
    amps: { range: (_p, _low, high) => [0, Math.max(10, (high ?? 0) * 1.15)] },
  },
  axes: [
    axis('Time (s)'),
    axis('Supply (V)', { size: 52 }),
    ...(props.amps ? [axis('Current (A)', { side: 1, scale: 'amps', grid: { show: false }, size: 52 })] : []),
  ],
  series: [
    {},
    { stroke: themeColour('supply'), width: 1.8, points: { show: false } },
    { stroke: themeColour('ink-2'), width: 1.4, dash: [5, 3], scale: 'amps', points: { show: false } },
  ],
})
</script>

<template>
  <PlotBox
    :options="options"
    :data="data"
    :height="height"
    :label="amps ? 'Supply volts (solid) and amps (dashed) over time' : 'Supply volts over time'"
  />
</template>
