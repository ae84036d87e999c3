<script setup lang="ts">
// A whole recording in small: its envelope, the stretches that were found, and the one whose reading stands.
import { computed } from 'vue'
import type { FoundView } from '../../api/types'
import ChartFrame from '../../kit/ChartFrame.vue'
import type { Trace } from '../../kit/ChartFrame.vue'
import { figure } from '../../kit/quantity'

const props = defineProps<{ found: FoundView; channel: number }>()
const WIDTH = 1000
const HEIGHT = 150
const envelope = computed(() => props.found.envelopes.find((e) => e.channel === props.channel))
const peak = computed(() => envelope.value?.peak_volts ?? 0)
const wave = computed(() => {
  const { highs = [], lows = [] } = envelope.value ?? {}
  const x = (i: number) => ((i + 0.5) * WIDTH) / highs.length
  const y = (v: number) => HEIGHT / 2 - (v / (peak.value || 1)) * (HEIGHT / 2 - 4)
  const top = highs.map((v, i) => `${x(i).toFixed(1)} ${y(v).toFixed(1)}`)
  const bottom = lows.map((v, i) => `${x(i).toFixed(1)} ${(y(v) + 0.6).toFixed(1)}`).reverse()
  return `M${[...top, ...bottom].join('L')}Z`
})
const x = (seconds: number) => (seconds / props.found.seconds) * WIDTH
const bands = computed(() =>
  props.found.sections.map((s) => ({ ...s, x: x(s.start), width: Math.max(1.5, x(s.stop - s.start)) })),
)
const ticks = computed(() => [0, 0.25, 0.5, 0.75, 1].map((part) => part * props.found.seconds))
const decimals = computed(() => (props.found.seconds < 2 ? 2 : props.found.seconds < 40 ? 1 : 0))
const traces = computed<Trace[]>(() => {
  const { highs = [], lows = [] } = envelope.value ?? {}
  return [
    { head: 'Time', unit: 's', values: highs.map((_, i) => ((i + 0.5) * props.found.seconds) / highs.length) },
    { head: 'Highest', unit: 'V', values: highs, decimals: 2 },
    { head: 'Lowest', unit: 'V', values: lows, decimals: 2 },
  ]
})
const label = computed(
  () =>
    `Channel ${props.channel} over ${figure(props.found.seconds, 1)} s, ${figure(peak.value, 1)} V peak, ` +
    `${props.found.sections.length} stretches found`,
)
</script>

<template>
  <ChartFrame :title="`Recording, channel ${channel}`" :traces="traces">
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" preserveAspectRatio="none" :height="HEIGHT" role="img" :aria-label="label">
      <rect
        v-for="b in bands"
        :key="b.start"
        :x="b.x"
        y="0"
        :width="b.width"
        :height="HEIGHT"
        :class="['band', { chosen: b.chosen }]"
      />
      <line x1="0" :x2="WIDTH" :y1="HEIGHT / 2" :y2="HEIGHT / 2" class="zero" />
      <path :d="wave" class="wave" />
      <line v-for="b in bands" :key="`e${b.start}`" :x1="b.x" :x2="b.x" y1="0" :y2="HEIGHT" class="edge" />
    </svg>
    <p class="ends quiet">
      <span v-for="t in ticks" :key="t" class="mono">{{ figure(t, decimals) }} s</span>
    </p>
  </ChartFrame>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  background: var(--sheet);
  border: 1px solid var(--rule);
}
.band {
  fill: var(--selected);
}
.band.chosen {
  fill: var(--certified-band);
}
.zero {
  stroke: var(--rule);
}
.edge {
  stroke: var(--rule-strong);
  vector-effect: non-scaling-stroke;
}
.wave {
  fill: var(--certified);
  fill-opacity: 0.75;
}
.ends {
  display: flex;
  justify-content: space-between;
  font-size: 13px;
}
</style>
