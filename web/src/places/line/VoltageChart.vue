<script setup lang="ts">
// Power against supply voltage: the runs as dots, the fitted line with its band. All of it but the dots is an estimate.
import type uPlot from 'uplot'
import { computed } from 'vue'
import type { VoltageFitView } from '../../api/types'
import PlotBox from '../../trade/PlotBox.vue'
import { axis } from '../../trade/axes'
import { figure } from '../../kit/quantity'
import { watts } from '../../trade/format'
import { themeColour } from '../../app/theme/mode'

const props = defineProps<{ fit: VoltageFitView; height: number }>()

/** One x per row: the curve's volts and the runs' own, each series empty where it has nothing. */
const data = computed<uPlot.AlignedData>(() => {
  const rows = [
    ...props.fit.curve.map((c) => ({
      x: c.volts,
      low: c.low,
      high: c.high,
      line: c.watts,
      dot: null as number | null,
    })),
    ...props.fit.points.map((p) => ({ x: p.volts, low: null, high: null, line: null, dot: p.watts })),
  ].sort((a, b) => a.x - b.x)
  return [
    rows.map((r) => r.x),
    rows.map((r) => r.high),
    rows.map((r) => r.low),
    rows.map((r) => (props.fit.exponent === null ? null : r.line)),
    rows.map((r) => r.dot),
  ]
})
const most = computed(() => 1.3 * Math.max(...props.fit.points.map((p) => p.watts)))
const options = computed(() => {
  const top = most.value
  return (): Omit<uPlot.Options, 'width' | 'height'> => ({
    legend: { show: false },
    cursor: { drag: { x: false, y: false } },
    scales: { x: { time: false }, y: { range: [0, top] } },
    axes: [axis('Supply at the reading (V)'), axis('Power (W)', { size: 56 })],
    bands: [{ series: [1, 2], fill: themeColour('certified-band') }],
    series: [
      {},
      { stroke: 'transparent', spanGaps: true, points: { show: false } },
      { stroke: 'transparent', spanGaps: true, points: { show: false } },
      { stroke: themeColour('certified'), width: 1.2, dash: [6, 4], spanGaps: true, points: { show: false } },
      {
        stroke: themeColour('ink'),
        paths: () => null,
        points: { show: true, size: 8, fill: themeColour('ink') },
      },
    ],
  })
})
const label = computed(
  () =>
    `Power against supply voltage: ${props.fit.points.map((p) => `${watts(p.watts)} W at ${figure(p.volts, 2)} V`).join(', ')}` +
    (props.fit.exponent === null ? '' : `; exponent ${figure(props.fit.exponent, 2)}`),
)
</script>

<template>
  <PlotBox :options="options" :data="data" :height="height" :label="label" />
</template>
