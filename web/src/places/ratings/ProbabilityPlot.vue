<script setup lang="ts">
// Units in rising order over where normal ones would be expected: on a line where they scatter normally.
import { computed } from 'vue'
import type { PopulationView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { ticks } from '../../kit/ticks'

const props = defineProps<{ found: PopulationView }>()
const [WIDTH, HEIGHT, LEFT, FOOT] = [560, 250, 46, 34]
const points = computed(() => props.found.rows.filter((row) => row.score !== null && row.watts !== null))
const reach = computed(() => 1.15 * Math.max(1, ...points.value.map((row) => Math.abs(row.score!))))
/** The line that normal units of this mean and spread lie on. */
const line = computed(() => {
  const bound = props.found.bound
  if (!bound || bound.mean === null || bound.spread === null) return null
  return { low: bound.mean - reach.value * bound.spread, high: bound.mean + reach.value * bound.spread }
})
const range = computed(() => {
  const all = points.value.map((row) => row.watts!)
  const [low, high] = [Math.min(...all, line.value?.low ?? Infinity), Math.max(...all, line.value?.high ?? -Infinity)]
  const pad = (high - low || 1) * 0.04
  return { low: low - pad, high: high + pad }
})
const x = (watts: number) =>
  LEFT + ((watts - range.value.low) / (range.value.high - range.value.low)) * (WIDTH - LEFT - 10)
const y = (score: number) => ((reach.value - score) / (2 * reach.value)) * (HEIGHT - FOOT)
const scores = computed(() => [-2, -1, 0, 1, 2].filter((one) => Math.abs(one) <= reach.value))
const marks = computed(() => ticks(range.value.low, range.value.high, 4))
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" aria-label="Probability plot; the table below has its units">
      <g v-for="one in scores" :key="one">
        <line :x1="LEFT" :x2="WIDTH" :y1="y(one)" :y2="y(one)" class="grid" />
        <text :x="LEFT - 8" :y="y(one) + 4" text-anchor="end">{{ one > 0 ? `+${one}` : one }}</text>
      </g>
      <line v-if="line" :x1="x(line.low)" :y1="y(-reach)" :x2="x(line.high)" :y2="y(reach)" class="normal" />
      <circle v-for="row in points" :key="row.unit_id" :cx="x(row.watts!)" :cy="y(row.score!)" r="5" class="unit">
        <title>{{ row.serial }}: {{ figure(row.watts, 1) }} W</title>
      </circle>
      <text v-for="tick in marks" :key="tick.at" :x="x(tick.at)" :y="HEIGHT - 14" text-anchor="middle">
        {{ tick.text }}
      </text>
      <text :x="WIDTH - 4" :y="HEIGHT - 14" text-anchor="end">W</text>
    </svg>
    <figcaption class="quiet">
      Where normal units would be expected, in spreads, over their watts: the line is what these would lie on.
    </figcaption>
  </figure>
</template>

<style scoped src="./chart.css"></style>
<style scoped>
figure {
  margin: 14px 0 0;
  max-width: 620px;
}
.normal {
  stroke: var(--ink-2);
  stroke-dasharray: 5 4;
}
.unit {
  fill: var(--certified);
}
figcaption {
  padding-top: 6px;
  font-size: 14px;
}
</style>
