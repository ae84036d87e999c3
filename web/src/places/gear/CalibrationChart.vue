<script setup lang="ts">
// An instrument's calibrations over the years: what was found, what was left, between its limits.
import { computed } from 'vue'
import type { GearView } from '../../api/types'
import ChartFrame from '../../kit/ChartFrame.vue'
import type { Trace } from '../../kit/ChartFrame.vue'
import { figure } from '../../kit/quantity'
import { ticks } from '../../kit/ticks'
import { day } from '../../trade/format'

const props = defineProps<{ of: GearView['calibrations'][number] }>()
const [WIDTH, HEIGHT, LEFT, RIGHT, FOOT] = [560, 150, 52, 16, 24]
const points = computed(() => props.of.points)
const top = computed(
  () =>
    1.2 *
    Math.max(
      0.01,
      ...points.value.flatMap((one) => [
        one.limit_percent,
        Math.abs(one.found_percent ?? 0),
        Math.abs(one.left_percent ?? 0),
      ]),
    ),
)
const days = computed(() => points.value.map((one) => new Date(one.on).getTime()))
const x = (at: number) => {
  const [first, last] = [days.value[0]!, days.value.at(-1)!]
  const share = last > first ? (days.value[at]! - first) / (last - first) : 0.5
  return LEFT + 60 + share * (WIDTH - LEFT - RIGHT - 120)
}
const y = (percent: number) => ((top.value - percent) / (2 * top.value)) * (HEIGHT - FOOT)
const marks = computed(() => ticks(-top.value, top.value, 4))
/** The limits as steps: each holds from its calibration to the next. */
const limit = (sign: number) =>
  points.value
    .map((one, at) => `${at ? `H ${x(at)} V` : `M ${LEFT},`} ${y(sign * one.limit_percent)}`)
    .concat(`H ${WIDTH - RIGHT}`)
    .join(' ')
const traces = computed<Trace[]>(() => [
  {
    head: 'Calibration',
    unit: '',
    values: points.value.map((_, at) => at + 1),
    names: points.value.map((one) => [day(one.on), one.certificate].filter(Boolean).join(', ')),
  },
  { head: 'As found', unit: '%', values: points.value.map((one) => one.found_percent), decimals: 2 },
  { head: 'As left', unit: '%', values: points.value.map((one) => one.left_percent), decimals: 2 },
  { head: 'Limit ±', unit: '%', values: points.value.map((one) => one.limit_percent), decimals: 2 },
])
const said = (one: (typeof points.value)[number]) =>
  `${day(one.on)}: found ${figure(one.found_percent, 2)} %, left ${figure(one.left_percent, 2)} %, limits ± ${figure(one.limit_percent, 2)} %`
</script>

<template>
  <ChartFrame :title="`Calibrations of ${of.name}`" :traces="traces">
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" :aria-label="points.map(said).join('; ')">
      <text v-for="tick in marks" :key="tick.at" :x="LEFT - 8" :y="y(tick.at) + 4" text-anchor="end">
        {{ tick.text.replace('-', '−') }}
      </text>
      <text :x="LEFT - 8" :y="HEIGHT - 6" text-anchor="end">%</text>
      <line :x1="LEFT" :x2="WIDTH - RIGHT" :y1="y(0)" :y2="y(0)" class="zero" />
      <path v-for="sign in [1, -1]" :key="sign" :d="limit(sign)" class="limit" />
      <g v-for="(one, at) in points" :key="one.on">
        <line
          v-if="one.found_percent !== null && one.left_percent !== null"
          :x1="x(at)"
          :x2="x(at)"
          :y1="y(one.found_percent)"
          :y2="y(one.left_percent)"
          class="adjusted"
        />
        <circle
          v-if="one.found_percent !== null"
          :cx="x(at)"
          :cy="y(one.found_percent)"
          r="5"
          :class="['found', { out: one.out }]"
        >
          <title>{{ said(one) }}</title>
        </circle>
        <rect
          v-if="one.left_percent !== null"
          :x="x(at) - 3.5"
          :y="y(one.left_percent) - 3.5"
          width="7"
          height="7"
          class="left"
        >
          <title>{{ said(one) }}</title>
        </rect>
        <text :x="x(at)" :y="HEIGHT - 6" text-anchor="middle">{{ day(one.on) }}</text>
      </g>
    </svg>
  </ChartFrame>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 640px;
}
text {
  font: 12px var(--mono);
  fill: var(--ink-2);
}
.zero {
  stroke: var(--rule-strong);
}
.limit {
  fill: none;
  stroke: var(--danger);
  stroke-dasharray: 5 4;
}
.adjusted {
  stroke: var(--ink-2);
}
.found {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.found.out {
  stroke: var(--danger);
  stroke-width: 2.4;
}
.left {
  fill: var(--certified);
}
</style>
