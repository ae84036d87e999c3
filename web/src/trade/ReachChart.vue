<script setup lang="ts">
// Reach bars of one model or unit on one scale, each with its figures; the same data as a table on demand.
import { computed, ref } from 'vue'
import type { ReachView } from '../api/types'
import type { Column } from '../kit/columns'
import DataTable from '../kit/DataTable.vue'
import { figure } from '../kit/quantity'
import { ticks } from '../kit/ticks'
import { U_HOLDS, decibels, place, reachInWords, spread, watts } from './format'
import ModeMark from './ModeMark.vue'
import ReachBar from './ReachBar.vue'
import WattsFigure from './WattsFigure.vue'

const props = defineProps<{
  reaches: ReachView[]
  /** Whether to say which unit each bar is of. */
  named?: boolean
}>()
const asTable = ref(false)
const scale = computed(
  () =>
    1.06 *
    Math.max(
      1,
      ...props.reaches.flatMap((r) => [
        r.certified_watts ?? 0,
        r.uncertified_watts ?? 0,
        r.burst_watts ?? 0,
        ...r.notches.filter((n) => n.kind === 'continuous').map((n) => n.watts),
      ]),
    ),
)
const marks = computed(() => ticks(0, scale.value))
const key = (r: ReachView) => `${r.group}/${r.load_ohms}/${r.bridged}`
const claimed = (r: ReachView) =>
  reachInWords({ ...r, certified_watts: null, uncertified_watts: null, burst_watts: null })
    .split('; ')
    .slice(1)
    .join('; ') || '–'
const COLUMNS: Column<ReachView>[] = [
  { key: 'group', head: 'Group', text: (r) => r.group },
  { key: 'load', head: 'Load', text: (r) => place(r) },
  {
    key: 'certified',
    head: 'Certified',
    unit: 'W',
    text: (r) => watts(r.certified_watts, r.expanded_watts),
    num: true,
  },
  { key: 'u', head: '± U', unit: 'W', text: (r) => spread(r.expanded_watts), num: true },
  { key: 'uncertified', head: 'Uncertified', unit: 'W', text: (r) => watts(r.uncertified_watts), num: true },
  { key: 'burst', head: 'Burst', unit: 'W', text: (r) => watts(r.burst_watts), num: true },
  { key: 'headroom', head: 'Headroom', unit: 'dB', text: (r) => decibels(r.headroom_db), num: true },
  { key: 'supply', head: 'Supply', unit: 'V', text: (r) => figure(r.supply_volts, 2), num: true },
  { key: 'claims', head: 'Claims', text: claimed },
]
</script>

<template>
  <DataTable v-if="asTable" :id="key" name="Reach" :rows="reaches" :columns="COLUMNS" fixed>
    <template #uncertified="{ row }"
      ><WattsFigure :value="row.uncertified_watts" :u="row.uncertified_expanded_watts"
    /></template>
    <template #burst="{ row }"><WattsFigure :value="row.burst_watts" :u="row.burst_expanded_watts" /></template>
  </DataTable>
  <div v-else class="chart">
    <template v-for="r in reaches" :key="key(r)">
      <div class="label">
        {{ r.group }}, <strong>{{ place(r) }}</strong>
      </div>
      <ReachBar :reach="r" :scale="scale" />
      <div class="figure">
        <template v-if="r.certified_watts !== null">
          <RouterLink :to="`/attempts/${r.attempt_id}`" class="mono"
            >{{ watts(r.certified_watts, r.expanded_watts) }}
            <span class="quiet">± {{ spread(r.expanded_watts) }} W</span></RouterLink
          >
          <span class="quiet">
            at {{ figure(r.supply_volts, 2) }} V<template v-if="!r.at_limit">, stopped short</template></span
          >
        </template>
        <span v-else class="quiet">{{ r.unit_serial ? 'not certified' : 'not tested' }}</span>
        <span v-if="named && r.unit_serial" class="quiet mono of">{{ r.unit_serial }}</span>
        <span v-if="r.simulated" class="quiet of">simulated</span>
      </div>
    </template>
    <div />
    <div class="axis" aria-hidden="true">
      <span v-for="tick in marks" :key="tick.at" :style="{ left: `${(100 * tick.at) / scale}%` }" class="mono">{{
        tick.text
      }}</span>
    </div>
    <div class="quiet axis-unit">W</div>
  </div>
  <p class="key quiet">
    <span><ModeMark mode="certified" named /> certified, ± U</span>
    <span><ModeMark mode="uncertified" named /> on to uncertified</span>
    <span><ModeMark mode="burst" named /> burst, onset of clipping</span>
    <span><span class="claim-mark" aria-hidden="true" /> claim</span>
  </p>
  <button class="switch" @click="asTable = !asTable">{{ asTable ? 'Show as bars' : 'Show as a table' }}</button>
  <span class="quiet holds">{{ U_HOLDS }}</span>
</template>

<style scoped>
.of {
  display: block;
  font-size: 12px;
}
.chart {
  display: grid;
  grid-template-columns: 150px 1fr 230px;
  gap: 4px 18px;
  padding-top: 12px;
  align-items: center;
}
.label {
  text-align: right;
}
.figure {
  white-space: nowrap;
  padding-top: 8px;
}
.figure a {
  color: var(--ink);
}
.axis {
  position: relative;
  height: 18px;
  font-size: 12px;
  color: var(--ink-2);
}
.axis span {
  position: absolute;
  transform: translateX(-50%);
}
.axis span:first-child {
  transform: none;
}
.axis-unit {
  font-size: 13px;
}
.key {
  display: flex;
  gap: 20px;
  font-size: 13px;
  margin-top: 6px;
}
.claim-mark {
  display: inline-block;
  width: 2.5px;
  height: 13px;
  background: var(--claim);
  vertical-align: -2px;
  margin-right: 4px;
}
.holds {
  font-size: 13px;
  margin-left: 18px;
}
.switch {
  font: inherit;
  font-size: 13px;
  color: var(--ink-2);
  background: none;
  border: none;
  padding: 2px 0;
  margin-top: 4px;
  cursor: pointer;
  text-decoration: underline;
  text-underline-offset: 3px;
}
</style>
