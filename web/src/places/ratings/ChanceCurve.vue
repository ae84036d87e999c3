<script setup lang="ts">
// The chance that so many units bear a figure: how far a larger sample would help.
import { computed } from 'vue'
import type { PopulationView } from '../../api/types'
import ChartFrame from '../../kit/ChartFrame.vue'
import type { Trace } from '../../kit/ChartFrame.vue'
import { figure } from '../../kit/quantity'

const props = defineProps<{
  chances: NonNullable<PopulationView['bound']>['chances']
  /** The figure, W. */
  watts: number
  /** How many units there are. */
  units: number
}>()
const [WIDTH, HEIGHT, LEFT, TOP, FOOT] = [560, 190, 52, 8, 40]
const span = computed(() => {
  const all = [...props.chances.map((one) => one.units), props.units]
  const [low, high] = [Math.min(...all), Math.max(...all)]
  return { low, room: high - low || 1 }
})
const x = (units: number) => LEFT + ((units - span.value.low) / span.value.room) * (WIDTH - LEFT - 20)
const y = (chance: number) => TOP + (1 - chance) * (HEIGHT - TOP - FOOT)
/** Of units that stand close together only some are named. */
const named = computed(() => {
  let last = -Infinity
  return props.chances.filter((one) => {
    const free = x(one.units) - last >= 34
    if (free) last = x(one.units)
    return free
  })
})
const traces = computed<Trace[]>(() => [
  { head: 'Units', unit: '', values: props.chances.map((one) => one.units), decimals: 0 },
  { head: 'Chance', unit: '%', values: props.chances.map((one) => 100 * one.chance), decimals: 0 },
])
const said = computed(() =>
  props.chances.map((one) => `${one.units} units ${figure(100 * one.chance, 0)} %`).join(', '),
)
</script>

<template>
  <ChartFrame :title="`Chance that so many units bear ${figure(watts, 1)} W`" :traces="traces" class="curve">
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" :aria-label="`Chance to bear ${figure(watts, 1)} W: ${said}`">
      <g v-for="chance in [0, 0.5, 1]" :key="chance">
        <line :x1="LEFT" :x2="WIDTH - 20" :y1="y(chance)" :y2="y(chance)" class="grid" />
        <text :x="LEFT - 8" :y="y(chance) + 4" text-anchor="end">{{ 100 * chance }} %</text>
      </g>
      <line :x1="x(units)" :x2="x(units)" :y1="TOP" :y2="y(0)" class="today" />
      <text :x="x(units) + 5" :y="TOP + 12">today</text>
      <polyline :points="chances.map((one) => `${x(one.units)},${y(one.chance)}`).join(' ')" class="path" />
      <circle v-for="one in chances" :key="one.units" :cx="x(one.units)" :cy="y(one.chance)" r="3.5" class="at">
        <title>{{ one.units }} units: {{ figure(100 * one.chance, 0) }} %</title>
      </circle>
      <text v-for="one in named" :key="`n${one.units}`" :x="x(one.units)" :y="HEIGHT - 20" text-anchor="middle">
        {{ one.units }}
      </text>
      <text :x="WIDTH - 20" :y="HEIGHT - 4" text-anchor="end">units</text>
    </svg>
  </ChartFrame>
</template>

<style scoped src="./chart.css"></style>
<style scoped>
.curve {
  max-width: 620px;
}
.today {
  stroke: var(--claim);
  stroke-dasharray: 2 3;
}
.path {
  fill: none;
  stroke: var(--certified);
  stroke-width: 2;
}
.at {
  fill: var(--certified);
}
</style>
