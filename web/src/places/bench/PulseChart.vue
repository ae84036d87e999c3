<script setup lang="ts">
// The latest burst as it came, with the window whose cycles are read.
import { computed } from 'vue'
import type { PulsesView } from '../../api/types'
import { figure } from '../../parts/format'

const props = defineProps<{ pulses: PulsesView; height: number }>()
const WIDTH = 640
const most = computed(() => Math.max(...props.pulses.peaks, 0.01) * 1.12)
const middle = computed(() => props.height / 2 - 8)
const x = (index: number) => (WIDTH * index) / props.pulses.peaks.length
/** Peaks above and below the middle line: the outline of the wave. */
const outline = computed(() => {
  const steps = props.pulses.peaks.map((peak, index) => ({
    from: x(index),
    to: x(index + 1),
    half: (middle.value * peak) / most.value,
  }))
  const upper = steps.map((s) => `L${s.from.toFixed(1)} ${(middle.value - s.half).toFixed(1)}H${s.to.toFixed(1)}`)
  const lower = steps
    .reverse()
    .map((s) => `L${s.to.toFixed(1)} ${(middle.value + s.half).toFixed(1)}H${s.from.toFixed(1)}`)
  return `M0 ${middle.value}${upper.join('')}${lower.join('')}Z`
})
const windows = computed(() =>
  props.pulses.windows_ms.map(([from, to]) => ({
    from: (WIDTH * from!) / props.pulses.milliseconds,
    width: (WIDTH * (to! - from!)) / props.pulses.milliseconds,
    ms: to! - from!,
  })),
)
const label = computed(
  () =>
    `Burst at channel ${props.pulses.channel}, ${figure(Math.max(...props.pulses.peaks), 1)} V peak` +
    (windows.value[0] ? `; read for ${figure(windows.value[0].ms, 0)} ms of it` : ''),
)
</script>

<template>
  <figure class="pulse">
    <svg :viewBox="`0 0 ${WIDTH} ${height}`" preserveAspectRatio="none" :height="height" role="img" :aria-label="label">
      <rect v-for="(w, i) in windows" :key="i" :x="w.from" y="0" :width="w.width" :height="2 * middle" class="window" />
      <line x1="0" :x2="WIDTH" :y1="middle" :y2="middle" class="zero" />
      <path :d="outline" class="wave" />
    </svg>
    <figcaption class="quiet">
      <span>0 ms</span>
      <span>
        channel {{ pulses.channel }}, peak <span class="mono">{{ figure(Math.max(...pulses.peaks), 1) }} V</span>
        <template v-if="windows[0]"> · <span class="key" /> read: {{ figure(windows[0].ms, 0) }} ms</template>
      </span>
      <span>{{ figure(pulses.milliseconds, 0) }} ms</span>
    </figcaption>
  </figure>
</template>

<style scoped>
.pulse {
  margin: 0;
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
  fill: var(--burst);
}
figcaption {
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
