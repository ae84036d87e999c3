<script setup lang="ts">
// A few cycles of the wave that the reading was taken from.
import type uPlot from 'uplot'
import { computed } from 'vue'
import type { WaveView } from '../../api/types'
import PlotBox from '../../trade/PlotBox.vue'
import { axis } from '../../trade/axes'
import { themeColour } from '../../app/theme/mode'

const props = defineProps<{ wave: WaveView; height: number }>()
const data = computed<uPlot.AlignedData>(() => [props.wave.milliseconds, props.wave.volts])
const options = (): Omit<uPlot.Options, 'width' | 'height'> => ({
  legend: { show: false },
  cursor: { drag: { x: false, y: false } },
  scales: { x: { time: false } },
  axes: [axis('Time (ms)'), axis('Output (V)', { size: 52 })],
  series: [{}, { stroke: themeColour('certified'), width: 1.6, points: { show: false } }],
})
</script>

<template>
  <PlotBox :options="options" :data="data" :height="height" :label="`Output of channel ${wave.channel} over time`" />
</template>
