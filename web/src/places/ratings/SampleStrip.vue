<script setup lang="ts">
// The units of a sample on one scale of watts, a line a lot, with the bound, the proposal and what is wanted.
import { computed } from 'vue'
import type { PopulationView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { ticks } from '../../kit/ticks'

const props = defineProps<{
  found: PopulationView
  /** What the figure is that somebody would print; “wanted” unless it is told. */
  wanted?: string
}>()
const shown = computed(() => props.found.rows.filter((row) => row.watts !== null))
const bound = computed(() => props.found.bound?.bound_watts ?? null)
/** What is proposed has no mark of its own where it is what somebody would print. */
const proposal = computed(() => {
  const proposed = props.found.bound?.proposal_watts ?? null
  return proposed === props.found.wanted_watts ? null : proposed
})
/** From a little below the least to a little above the most of what is drawn. */
const range = computed(() => {
  const all = [...shown.value.map((row) => row.watts!), bound.value, proposal.value, props.found.wanted_watts]
  const drawn = all.filter((one): one is number => one !== null)
  const [low, high] = [Math.min(...drawn), Math.max(...drawn)]
  const pad = (high - low || 1) * 0.08
  return { low: low - pad, high: high + pad }
})
const at = (watts: number) => ((watts - range.value.low) / (range.value.high - range.value.low)) * 100
const lots = computed(() => {
  const found = new Map<string, typeof shown.value>()
  for (const row of shown.value) found.set(row.lot, [...(found.get(row.lot) ?? []), row])
  return [...found].map(([lot, rows]) => ({ lot: lot || 'not known', rows }))
})
const marks = computed(() => ticks(range.value.low, range.value.high, 6))
/** ± U of the weakest unit that counts, as far as it lies on the scale: the others' are about the same. */
const reach = computed(() => {
  const counted = shown.value.filter((row) => !row.left_out && row.expanded_watts)
  const weakest = counted.sort((one, other) => one.watts! - other.watts!)[0]
  if (!weakest) return null
  const from = Math.max(0, at(weakest.watts! - weakest.expanded_watts!))
  const to = Math.min(100, at(weakest.watts! + weakest.expanded_watts!))
  return { unit: weakest.unit_id, from, to, words: `± ${figure(weakest.expanded_watts, 1)} W` }
})
const said = (row: (typeof shown.value)[number]) =>
  `${row.serial}: ${row.censored ? 'at least ' : ''}${figure(row.watts, 1)} W${row.left_out ? `. ${row.left_out}` : ''}`
</script>

<template>
  <div class="strip" role="img" :aria-label="`${shown.length} units by their watts; the table below has them all`">
    <div v-for="one in lots" :key="one.lot" class="line">
      <span class="lot">lot {{ one.lot }}</span>
      <div class="track">
        <i
          v-if="reach && one.rows.some((row) => row.unit_id === reach!.unit)"
          class="reach"
          :style="{ left: `${reach.from}%`, width: `${reach.to - reach.from}%` }"
          :title="`U of the weakest unit: ${reach.words}`"
        />
        <i
          v-for="row in one.rows"
          :key="row.unit_id"
          :class="['unit', { out: row.left_out, least: row.censored }]"
          :style="{ left: `${at(row.watts!)}%` }"
          :title="said(row)"
        />
      </div>
    </div>
    <div class="line scale">
      <span class="lot">W</span>
      <div class="track">
        <span v-for="tick in marks" :key="tick.at" class="tick mono" :style="{ left: `${at(tick.at)}%` }">{{
          tick.text
        }}</span>
      </div>
    </div>
    <div class="marks">
      <span class="lot" />
      <div class="track">
        <b v-if="bound !== null" class="bound" :style="{ left: `${at(bound)}%` }"><span>bound</span></b>
        <b v-if="proposal !== null" class="proposal" :style="{ left: `${at(proposal)}%` }"><span>proposal</span></b>
        <b v-if="found.wanted_watts !== null" class="wanted" :style="{ left: `${at(found.wanted_watts)}%` }"
          ><span>{{ wanted ?? 'wanted' }}</span></b
        >
      </div>
    </div>
  </div>
  <p class="legend quiet">
    <i class="unit" /> a unit <i class="unit least" /> at least so much <i class="unit out" /> left out
    <template v-if="reach"><i class="reach" /> ± U of the weakest, {{ reach.words }}</template>
  </p>
</template>

<style scoped>
.strip {
  margin-top: 12px;
  position: relative;
  padding-top: 48px;
}
.line,
.marks {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  align-items: center;
}
.line .track {
  position: relative;
  height: 26px;
  border-bottom: 1px solid var(--rule);
}
.scale .track {
  border-bottom: none;
}
.lot {
  font-size: 13px;
  color: var(--ink-2);
}
.unit {
  position: absolute;
  bottom: 5px;
  width: 11px;
  height: 11px;
  margin-left: -5.5px;
  border-radius: 50%;
  background: var(--certified);
}
.reach {
  position: absolute;
  bottom: 10px;
  height: 0;
  border-top: 1.5px solid var(--ink-2);
}
.legend .reach {
  position: static;
  width: 22px;
  margin-left: 14px;
}
.unit.least {
  border-radius: 0;
  background: none;
  border: 5.5px solid transparent;
  border-right: none;
  border-left: 10px solid var(--certified);
}
.unit.out {
  background: none;
  border: 1.5px solid var(--ink-2);
  border-radius: 50%;
  width: 11px;
  height: 11px;
}
.tick {
  position: absolute;
  transform: translateX(-50%);
  font-size: 12px;
  color: var(--ink-2);
}
.marks {
  position: absolute;
  inset: 0 0 24px;
  pointer-events: none;
  align-items: stretch;
}
.marks .track {
  position: relative;
}
.marks b {
  position: absolute;
  top: 34px;
  bottom: 0;
  width: 0;
  border-left: 2px solid var(--ink);
  font-weight: 600;
  font-size: 13px;
}
.marks b span {
  position: absolute;
  top: -18px;
  right: 0;
  transform: translateX(50%);
  white-space: nowrap;
}
.marks .bound span {
  right: auto;
  left: 4px;
  transform: none;
}
.marks .proposal span {
  right: 4px;
  transform: none;
}
.marks .proposal {
  border-left-style: dashed;
}
.marks .wanted {
  top: 18px;
  border-left: 2px dotted var(--claim);
  color: var(--claim);
}
.legend {
  display: flex;
  gap: 8px;
  align-items: center;
  font-size: 13px;
}
.legend .unit {
  position: static;
  margin: 0;
}
.legend .unit:not(:first-child) {
  margin-left: 14px;
}
</style>
