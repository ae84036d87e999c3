<script setup lang="ts">
// THD+N against power, one trace per channel, growing towards the limit; on into clipping where the mode goes on.
import type uPlot from 'uplot'
import { computed } from 'vue'
import type { PointView } from '../../api/types'
import { thinned } from '../../kit/thinned'
import PlotBox from '../../trade/PlotBox.vue'
import { levelLine, logAxis, powerMark } from '../../trade/axes'
import { watts } from '../../trade/format'
import { themeColour } from '../../app/theme/mode'

const props = defineProps<{
  points: readonly PointView[]
  channels: number[]
  limits: { percent: number; word: string }[]
  height: number
  /** Ends to be marked, in weakest watts: where the certified power lay, where the run went to. */
  marks?: { watts: number; word: string }[]
}>()

/** uPlot wants one x per row: every channel's own watts, the other channels empty there. */
const data = computed<uPlot.AlignedData>(() => {
  const dots = thinned(props.points)
    .flatMap((p) => p.channels)
    .filter((c) => c.watts > 0 && c.thd_n_percent !== null && c.thd_n_percent > 0)
    .sort((a, b) => a.watts - b.watts)
  return [
    dots.map((c) => c.watts),
    ...props.channels.map((channel) => dots.map((c) => (c.channel === channel ? c.thd_n_percent : null))),
  ]
})

const options = computed(() => {
  const { channels, limits, marks } = props
  return (): Omit<uPlot.Options, 'width' | 'height'> => ({
    legend: { show: false },
    cursor: { drag: { x: false, y: false } },
    scales: {
      x: {
        time: false,
        distr: 3,
        range: (_p, low, high) => (low > 0 ? [low * 0.8, Math.max(high, low * 12) * 1.3] : [0.1, 1000]),
      },
      y: { distr: 3, range: (_p, low) => [Math.min(0.01, (low || 0.01) * 0.8), 30] },
    },
    axes: [logAxis('Power per channel (W)', [1, 2, 5]), logAxis('THD+N (%)', [1], { size: 52 })],
    series: [
      {},
      ...channels.map((channel, index) => ({
        label: `channel ${channel}`,
        stroke: themeColour(`ch-${(index % 5) + 1}`),
        width: 1.6,
        spanGaps: true,
        points: { show: true, size: 5, fill: themeColour('sheet') },
        dash: index % 2 ? [5, 3] : undefined,
      })),
    ],
    plugins: [
      ...limits.map((limit) => levelLine(limit.percent, limit.word, 'danger')),
      ...(marks ?? []).map((mark, line) => powerMark(mark.watts, mark.word, 'ink', line)),
    ],
  })
})
const label = computed(() => {
  const limits = props.limits.map((limit) => `${limit.word}`).join(', ')
  const marks = (props.marks ?? []).map((mark) => `, ${mark.word} at ${watts(mark.watts)} W`).join('')
  return `THD+N against power per channel; ${limits}${marks}. ${props.points.length} points so far.`
})
</script>

<template>
  <PlotBox :options="options" :data="data" :height="height" :label="label" />
</template>
