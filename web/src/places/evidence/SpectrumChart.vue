<script setup lang="ts">
// Levels over frequency in dB re the fundamental, harmonics marked by their order.
import type uPlot from 'uplot'
import { computed } from 'vue'
import type { SpectrumView } from '../../api/types'
import PlotBox from '../../trade/PlotBox.vue'
import { axis, logAxis } from '../../trade/axes'
import { themeColour } from '../../app/theme/mode'

const props = defineProps<{ spectrum: SpectrumView; height: number }>()
const FLOOR = -140
const data = computed<uPlot.AlignedData>(() => [
  props.spectrum.hz,
  props.spectrum.db.map((level) => Math.max(FLOOR, level)),
])

/** Writes each harmonic's order above its line, if it stands out of the chart's floor. */
function marks(harmonics: SpectrumView['harmonics']): uPlot.Plugin {
  return {
    hooks: {
      draw: (plot) => {
        const { ctx, bbox } = plot
        ctx.save()
        ctx.fillStyle = ctx.strokeStyle = themeColour('uncertified')
        ctx.font = `${12 * devicePixelRatio}px "JetBrains Mono Variable"`
        ctx.textAlign = 'center'
        for (const h of harmonics) {
          if (h.db < FLOOR + 8) continue
          const x = plot.valToPos(h.hz, 'x', true)
          const y = plot.valToPos(h.db, 'y', true)
          ctx.beginPath()
          ctx.moveTo(x, y)
          ctx.lineTo(x, bbox.top + bbox.height)
          ctx.stroke()
          ctx.fillText(String(h.order), x, y - 5 * devicePixelRatio)
        }
        ctx.restore()
      },
    },
  }
}

const options = computed(() => {
  const { harmonics } = props.spectrum
  return (): Omit<uPlot.Options, 'width' | 'height'> => ({
    legend: { show: false },
    cursor: { drag: { x: false, y: false } },
    scales: { x: { time: false, distr: 3, range: () => [10, 20000] }, y: { range: () => [FLOOR, 8] } },
    axes: [logAxis('Frequency (Hz)', [1, 2, 5]), axis('Level (dB)', { size: 52 })],
    series: [{}, { stroke: themeColour('ink-2'), width: 1, points: { show: false } }],
    plugins: [marks(harmonics)],
  })
})
const label = computed(
  () =>
    `Spectrum of channel ${props.spectrum.channel}. ` +
    props.spectrum.harmonics.map((h) => `harmonic ${h.order}: ${h.db.toFixed(0)} dB`).join(', '),
)
</script>

<template>
  <PlotBox :options="options" :data="data" :height="height" :label="label" />
</template>
