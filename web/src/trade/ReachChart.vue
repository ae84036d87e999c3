<script setup lang="ts">
// Reach bars of one model or unit on one scale, each with its figures; the same data as a table on demand.
import { computed, ref } from 'vue'
import type { ReachView } from '../api/types'
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
</script>

<template>
  <table v-if="asTable" class="figures">
    <thead>
      <tr>
        <th scope="col">Group</th>
        <th scope="col">Load</th>
        <th class="num" scope="col">Certified, W</th>
        <th class="num" scope="col">± U, W</th>
        <th class="num" scope="col">Uncertified, W</th>
        <th class="num" scope="col">Burst, W</th>
        <th class="num" scope="col">Headroom, dB</th>
        <th class="num" scope="col">Supply, V</th>
        <th scope="col">Claims</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in reaches" :key="key(r)">
        <td>{{ r.group }}</td>
        <td>{{ place(r) }}</td>
        <td class="num">{{ watts(r.certified_watts, r.expanded_watts) }}</td>
        <td class="num">{{ spread(r.expanded_watts) }}</td>
        <td class="num"><WattsFigure :value="r.uncertified_watts" :u="r.uncertified_expanded_watts" /></td>
        <td class="num"><WattsFigure :value="r.burst_watts" :u="r.burst_expanded_watts" /></td>
        <td class="num">{{ decibels(r.headroom_db) }}</td>
        <td class="num">{{ figure(r.supply_volts, 2) }}</td>
        <td>
          {{
            reachInWords({ ...r, certified_watts: null, uncertified_watts: null, burst_watts: null })
              .split('; ')
              .slice(1)
              .join('; ') || '–'
          }}
        </td>
      </tr>
    </tbody>
  </table>
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
