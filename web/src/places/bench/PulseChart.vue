<script setup lang="ts">
// The latest burst as it came, with the window whose cycles are read.
import { computed } from 'vue'
import type { PulsesView } from '../../api/types'
import ChartFrame from '../../kit/ChartFrame.vue'
import type { Trace } from '../../kit/ChartFrame.vue'
import { figure } from '../../kit/quantity'

const props = defineProps<{ pulses: PulsesView; height: number }>()
const WIDTH = 640
const middle = computed(() => props.height / 2)
const wave = computed(() => {
  const step = WIDTH / props.pulses.volts.length
  const scale = (middle.value - 3) / (props.pulses.peak_volts || 1)
  return (
    'M' +
    props.pulses.volts.map((v, i) => `${(i * step).toFixed(1)} ${(middle.value - v * scale).toFixed(1)}`).join('L')
  )
})
const windows = computed(() =>
  props.pulses.windows_ms.map(([from, to]) => ({
    from: (WIDTH * from!) / props.pulses.milliseconds,
    width: (WIDTH * (to! - from!)) / props.pulses.milliseconds,
    ms: to! - from!,
  })),
)
const traces = computed<Trace[]>(() => {
  const { volts, milliseconds, channel } = props.pulses
  return [
    { head: 'Time', unit: 'ms', values: volts.map((_, i) => (i * milliseconds) / volts.length), decimals: 2 },
    { head: `Channel ${channel}`, unit: 'V', values: volts, decimals: 2 },
  ]
})
const label = computed(
  () =>
    `Burst at channel ${props.pulses.channel}, ${figure(props.pulses.peak_volts, 1)} V peak` +
    (windows.value[0] ? `; read for ${figure(windows.value[0].ms, 0)} ms of it` : ''),
)
</script>

<template>
  <ChartFrame title="The latest burst" :traces="traces" class="pulse">
    <svg :viewBox="`0 0 ${WIDTH} ${height}`" preserveAspectRatio="none" :height="height" role="img" :aria-label="label">
      <rect v-for="(w, i) in windows" :key="i" :x="w.from" y="0" :width="w.width" :height="2 * middle" class="window" />
      <line x1="0" :x2="WIDTH" :y1="middle" :y2="middle" class="zero" />
      <path :d="wave" class="wave" />
    </svg>
    <p class="ends quiet">
      <span>0 ms</span>
      <span>
        channel {{ pulses.channel }}, peak <span class="mono">{{ figure(pulses.peak_volts, 1) }} V</span>
        <template v-if="windows[0]"> · <span class="key" /> read: {{ figure(windows[0].ms, 0) }} ms</template>
      </span>
      <span>{{ figure(pulses.milliseconds, 0) }} ms</span>
    </p>
  </ChartFrame>
</template>

<style scoped>
.pulse {
  padding-left: 54px;
}
svg {
  display: block;
  width: 100%;
}
.window {
  fill: var(--selected);
  stroke: var(--certified);
  stroke-dasharray: 4 3;
  vector-effect: non-scaling-stroke;
}
.zero {
  stroke: var(--rule);
}
.wave {
  fill: none;
  stroke: var(--burst);
  stroke-width: 1.4;
  vector-effect: non-scaling-stroke;
}
.ends {
  display: flex;
  justify-content: space-between;
  font-size: 13px;
}
.key {
  display: inline-block;
  width: 14px;
  height: 10px;
  background: var(--selected);
  border: 1px dashed var(--certified);
}
</style>
