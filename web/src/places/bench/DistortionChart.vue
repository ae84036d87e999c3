<script setup lang="ts">
// THD+N against power, one trace per channel, growing towards the limit line.
import type uPlot from 'uplot'
import { computed } from 'vue'
import type { PointView } from '../../api/types'
import PlotBox from '../../parts/PlotBox.vue'
import { levelLine, logAxis } from '../../parts/axes'
import { themeColour } from '../../theme/mode'

const props = defineProps<{ points: readonly PointView[]; channels: number[]; limitPercent: number; height: number }>()

/** uPlot wants one x per row: every channel's own watts, the other channels empty there. */
const data = computed<uPlot.AlignedData>(() => {
  const dots = props.points
    .flatMap((p) => p.channels)
    .filter((c) => c.watts > 0 && c.thd_n_percent !== null && c.thd_n_percent > 0)
    .sort((a, b) => a.watts - b.watts)
  return [
    dots.map((c) => c.watts),
    ...props.channels.map((channel) => dots.map((c) => (c.channel === channel ? c.thd_n_percent : null))),
  ]
})

const options = computed(() => {
  const { channels, limitPercent } = props
  return (): Omit<uPlot.Options, 'width' | 'height'> => ({
    legend: { show: false },
    cursor: { drag: { x: false, y: false } },
    scales: {
      x: {
        time: false,
        distr: 3,
        range: (_p, low, high) => (low > 0 ? [low * 0.8, Math.max(high, low * 12) * 1.3] : [0.1, 1000]),
      },
      y: { distr: 3, range: (_p, low) => [Math.min(0.01, (low || 0.01) * 0.8), 20] },
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
    plugins: [levelLine(limitPercent, `limit ${limitPercent} %`, 'danger')],
  })
})
</script>

<template>
  <PlotBox
    :options="options"
    :data="data"
    :height="height"
    :label="`THD+N against power per channel; the limit is ${limitPercent} %. ${points.length} points so far.`"
  />
</template>
