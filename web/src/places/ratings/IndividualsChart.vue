<script setup lang="ts">
// Units in the order in which they came, between the limits of the sample; what signals a change has a ring.
import { computed } from 'vue'
import type { RatingView } from '../../api/types'
import ChartFrame from '../../kit/ChartFrame.vue'
import type { Trace } from '../../kit/ChartFrame.vue'
import { figure } from '../../kit/quantity'
import { ticks } from '../../kit/ticks'

const props = defineProps<{
  chart: NonNullable<RatingView['chart']>
  /** The figure that is promised, W. */
  rated: number
  /** Of what, where there are several. */
  name?: string
}>()
const [WIDTH, HEIGHT, LEFT, RIGHT, FOOT] = [860, 220, 58, 74, 26]
const range = computed(() => {
  const all = [...props.chart.points.map((one) => one.watts), props.chart.low, props.chart.high, props.rated]
  const [low, high] = [Math.min(...all), Math.max(...all)]
  const pad = (high - low || 1) * 0.08
  return { low: low - pad, high: high + pad }
})
const x = (at: number) => LEFT + ((at + 0.5) / props.chart.points.length) * (WIDTH - LEFT - RIGHT)
const y = (watts: number) => ((range.value.high - watts) / (range.value.high - range.value.low)) * (HEIGHT - FOOT)
const marks = computed(() => ticks(range.value.low, range.value.high, 4))
/** Where what came after the rating was proposed begins. */
const since = computed(() => props.chart.points.findIndex((one) => one.since))
const lots = computed(() => {
  const found: { lot: string; from: number; to: number }[] = []
  props.chart.points.forEach((one, at) => {
    const last = found.at(-1)
    if (last && last.lot === one.lot) last.to = at
    else found.push({ lot: one.lot, from: at, to: at })
  })
  return found
})
const lines = computed(() =>
  [
    { watts: props.chart.high, word: '+3 σ', kind: 'limit' },
    { watts: props.chart.centre, word: 'mean', kind: 'centre' },
    { watts: props.chart.low, word: '−3 σ', kind: 'limit' },
    { watts: props.rated, word: 'rating', kind: 'rated' },
  ].map((one) => ({ ...one, y: y(one.watts) })),
)
/** Labels at the right, moved apart where lines lie close together. */
const labels = computed(() => {
  const placed = [...lines.value].sort((one, other) => one.y - other.y).map((one) => ({ ...one, at: one.y + 4 }))
  placed.forEach((one, at) => {
    const before = placed[at - 1]
    if (before && one.at < before.at + 13) one.at = before.at + 13
  })
  return placed
})
const traces = computed<Trace[]>(() => {
  const { points } = props.chart
  const level = (head: string, watts: number) => ({ head, unit: 'W', values: points.map(() => watts), decimals: 2 })
  return [
    { head: 'Unit', unit: '', values: points.map((_, at) => at + 1), names: points.map((one) => one.serial) },
    { head: 'Power', unit: 'W', values: points.map((one) => one.watts), decimals: 2 },
    ...lines.value.map((one) => level(one.word, one.watts)),
    { head: 'From the one before', unit: 'W', values: points.map((one) => one.moved), decimals: 2 },
    level('highest range', props.chart.highest_range),
  ]
})
/** The moving ranges below: how far each unit is from the one before. */
const [MOVED, MOVED_FOOT] = [100, 30]
const movedTop = computed(
  () => 1.08 * Math.max(props.chart.highest_range, ...props.chart.points.map((one) => one.moved ?? 0)),
)
const movedY = (watts: number) => (1 - watts / movedTop.value) * (MOVED - MOVED_FOOT) + 4
const movedMarks = computed(() => ticks(0, movedTop.value, 2))
const moved = computed(() => props.chart.points.flatMap((one, at) => (one.moved === null ? [] : [{ one, at }])))
const isFar = (one: (typeof props.chart.points)[number]) => one.moved !== null && one.moved > props.chart.highest_range
const said = (one: (typeof props.chart.points)[number]) =>
  `${one.serial}: ${figure(one.watts, 2)} W${one.signal ? `. ${one.signal}` : ''}`
</script>

<template>
  <ChartFrame :title="name ? `Units as they came, ${name}` : 'Units as they came'" :traces="traces">
    <svg
      :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
      role="img"
      :aria-label="`${chart.points.length} units in the order in which they came; ${chart.points.filter((one) => one.signal).length} signal a change`"
    >
      <text v-for="tick in marks" :key="tick.at" :x="LEFT - 8" :y="y(tick.at) + 4" text-anchor="end">
        {{ tick.text }}
      </text>
      <text :x="LEFT - 8" :y="HEIGHT - 4" text-anchor="end">W</text>
      <rect
        v-if="since >= 0"
        class="since"
        :x="x(since) - (x(1) - x(0)) / 2"
        y="0"
        :width="(chart.points.length - since) * (x(1) - x(0))"
        :height="HEIGHT - FOOT"
      />
      <line
        v-for="one in lines"
        :key="one.word"
        :x1="LEFT"
        :x2="WIDTH - RIGHT"
        :y1="one.y"
        :y2="one.y"
        :class="one.kind"
      />
      <text v-for="one in labels" :key="one.word" :x="WIDTH - RIGHT + 6" :y="one.at" :class="`of-${one.kind}`">
        {{ one.word }}
      </text>
      <polyline :points="chart.points.map((one, at) => `${x(at)},${y(one.watts)}`).join(' ')" class="path" />
      <g v-for="(one, at) in chart.points" :key="one.serial">
        <circle v-if="one.signal" :cx="x(at)" :cy="y(one.watts)" r="8.5" class="ring" />
        <circle :cx="x(at)" :cy="y(one.watts)" r="4.5" :class="['unit', { new: one.since }]">
          <title>{{ said(one) }}</title>
        </circle>
      </g>
      <text v-for="one in lots" :key="one.from" :x="(x(one.from) + x(one.to)) / 2" :y="HEIGHT - 8" text-anchor="middle">
        {{ one.lot || '–' }}
      </text>
    </svg>
    <svg
      :viewBox="`0 0 ${WIDTH} ${MOVED}`"
      role="img"
      :aria-label="`How far each unit is from the one before; ${chart.points.filter(isFar).length} further than is usual`"
    >
      <text v-for="tick in movedMarks" :key="tick.at" :x="LEFT - 8" :y="movedY(tick.at) + 4" text-anchor="end">
        {{ tick.text }}
      </text>
      <line
        :x1="LEFT"
        :x2="WIDTH - RIGHT"
        :y1="movedY(chart.highest_range)"
        :y2="movedY(chart.highest_range)"
        class="limit"
      />
      <line
        :x1="LEFT"
        :x2="WIDTH - RIGHT"
        :y1="movedY(chart.mean_range)"
        :y2="movedY(chart.mean_range)"
        class="centre"
      />
      <text :x="WIDTH - RIGHT + 6" :y="movedY(chart.highest_range) + 4" class="of-limit">limit</text>
      <text
        :x="WIDTH - RIGHT + 6"
        :y="Math.max(movedY(chart.mean_range), movedY(chart.highest_range) + 13) + 4"
        class="of-centre"
      >
        mean
      </text>
      <polyline :points="moved.map(({ one, at }) => `${x(at)},${movedY(one.moved!)}`).join(' ')" class="path" />
      <g v-for="{ one, at } in moved" :key="one.serial">
        <circle v-if="isFar(one)" :cx="x(at)" :cy="movedY(one.moved!)" r="7.5" class="ring" />
        <circle :cx="x(at)" :cy="movedY(one.moved!)" r="3.5" :class="['unit', { new: one.since }]">
          <title>{{ one.serial }}: {{ figure(one.moved, 2) }} W from the one before</title>
        </circle>
      </g>
      <text :x="(LEFT + WIDTH - RIGHT) / 2" :y="MOVED - 4" text-anchor="middle">W from the unit before</text>
    </svg>
    <p class="quiet">
      By lot. <template v-if="since >= 0">Shaded: came after the rating was proposed. </template>Ringed: speaks for a
      change, by the rules for charts of individuals and of moving ranges.
    </p>
  </ChartFrame>
</template>

<style scoped src="./chart.css"></style>
<style scoped>
svg {
  margin-top: 12px;
}
.since {
  fill: var(--hover);
}
.limit {
  stroke: var(--ink-2);
  stroke-dasharray: 6 4;
}
.centre {
  stroke: var(--rule-strong);
}
.rated {
  stroke: var(--claim);
  stroke-width: 2;
  stroke-dasharray: 2 3;
}
.of-rated {
  fill: var(--claim);
}
.path {
  fill: none;
  stroke: var(--rule-strong);
}
.unit {
  fill: var(--certified);
}
.unit.new {
  fill: var(--sheet);
  stroke: var(--certified);
  stroke-width: 2;
}
.ring {
  fill: none;
  stroke: var(--danger);
  stroke-width: 1.6;
}
p {
  padding-top: 6px;
  font-size: 14px;
}
</style>
