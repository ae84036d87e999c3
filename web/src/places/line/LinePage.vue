<script setup lang="ts">
// The product line: models by row, loads by column, reach bars with claims, and what needs attention.
import { computed, defineAsyncComponent, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { ModelRow, ReachView, VerdictKind } from '../../api/types'
import { useMay } from '../../api/me'
import { useLine } from '../../api/queries'
import { spread, VERDICT_WORDS, ohms, watts } from '../../trade/format'
import PageFrame from '../../kit/PageFrame.vue'
import ReachBar from '../../trade/ReachBar.vue'
import VerdictMark from '../../trade/VerdictMark.vue'
import DecisionRule from '../../trade/DecisionRule.vue'
import WorkNote from './WorkNote.vue'

// Fetched when one begins to enter something: the board is drawn sooner.
const ModelForm = defineAsyncComponent(() => import('./ModelForm.vue'))
const SeriesForm = defineAsyncComponent(() => import('./SeriesForm.vue'))

const { data: line, error, isPending, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = useLine()
const mayDescribe = useMay('describe')
const mayPlan = useMay('plan')
const route = useRoute()
const router = useRouter()
const adding = ref(false)
/** Which series is being changed. */
const changed = ref<number | null>(null)
/** To which series a model is being added. */
const to = ref<{ id: number; name: string } | null>(null)
const LEGEND = Object.keys(VERDICT_WORDS) as VerdictKind[]

const state = computed(() => (route.query.state as VerdictKind | undefined) ?? null)
const loads = computed(() => {
  const all = line.value?.series.flatMap((s) => s.models.flatMap((m) => m.reaches.map((r) => r.load_ohms))) ?? []
  return [...new Set(all)].sort((a, b) => b - a)
})
const series = computed(
  () =>
    line.value?.series
      .map((s) => ({ ...s, models: s.models.filter((m) => !state.value || m.states.includes(state.value)) }))
      .filter((s) => s.models.length || !state.value) ?? [],
)

function setState(kind: VerdictKind | null) {
  void router.replace({ query: kind ? { state: kind } : {} })
}

/** One row per group and wiring: its label and its reach at each load. */
function rows(model: ModelRow) {
  const found = new Map<string, { label: string; at: Map<number, ReachView> }>()
  for (const reach of model.reaches) {
    const label = reach.bridged ? `${reach.group} bridged` : reach.group
    if (!found.has(label)) found.set(label, { label, at: new Map() })
    found.get(label)?.at.set(reach.load_ohms, reach)
  }
  return [...found.values()]
}

/** Bars of one model share a scale that holds its largest figure. */
function scale(model: ModelRow): number {
  const figures = model.reaches.flatMap((r) => [
    r.certified_watts ?? 0,
    r.uncertified_watts ?? 0,
    r.burst_watts ?? 0,
    ...r.notches.filter((n) => n.kind === 'continuous').map((n) => n.watts),
  ])
  return Math.max(1, ...figures) * 1.06
}
</script>

<template>
  <header class="head">
    <h1>Line</h1>
    <p class="quiet">What each model delivers, and whether that backs what is published.</p>
    <button v-if="mayDescribe" type="button" class="add to-line" @click="adding = true">Add a series</button>
    <RouterLink class="add to-line no-print" to="/line/spreadsheet">Spreadsheet</RouterLink>
    <RouterLink v-if="mayPlan" class="add to-line no-print" to="/line/bundle">From another lab</RouterLink>
    <div class="filters" role="group" aria-label="Show models with a claim that is …">
      <button :aria-pressed="!state" @click="setState(null)">All</button>
      <button v-for="kind in LEGEND" :key="kind" :aria-pressed="state === kind" @click="setState(kind)">
        <VerdictMark :kind="kind" short />
      </button>
    </div>
  </header>
  <PageFrame title="Line" :pending="isPending" :error="error" @retry="refetch" />
  <WorkNote />
  <p v-if="line && !line.series.length" class="empty">
    There is no product line on record yet. Add your first series, then its models and units.
    <span class="mono">make demo</span> starts Rulvek with a line to try.
  </p>
  <p v-else-if="line && !series.length" class="empty">No model has a claim in this state.</p>
  <div v-else-if="line" class="scrolls" role="region" aria-label="Models by load" tabindex="0">
    <table class="board">
      <thead>
        <tr>
          <th scope="col">Model</th>
          <th scope="col">Channels</th>
          <th v-for="load in loads" :key="load" scope="col">{{ ohms(load) }}</th>
          <th scope="col">Needs attention</th>
        </tr>
      </thead>
      <tbody v-for="s in series" :key="s.id">
        <tr class="series">
          <th :colspan="loads.length + 3" scope="rowgroup">
            {{ s.name }} <span class="quiet">{{ s.purpose }}</span>
            <button
              v-if="mayDescribe"
              type="button"
              class="add no-print"
              :aria-label="`Add a model to ${s.name}`"
              @click="to = s"
            >
              Add a model
            </button>
            <button
              v-if="mayDescribe"
              type="button"
              class="add no-print"
              :aria-label="`Change ${s.name}`"
              @click="changed = s.id"
            >
              Change
            </button>
          </th>
        </tr>
        <template v-for="m in s.models" :key="m.id">
          <tr v-for="(row, index) in rows(m)" :key="row.label" :class="{ first: index === 0 }">
            <th v-if="index === 0" :rowspan="rows(m).length" scope="row" class="model">
              <RouterLink :to="`/models/${m.id}`">{{ m.name }}</RouterLink>
              <span class="quiet">{{ m.description }}</span>
            </th>
            <td class="group">{{ row.label }}</td>
            <td v-for="load in loads" :key="load" class="cell">
              <template v-if="row.at.get(load)">
                <ReachBar :reach="row.at.get(load)!" :scale="scale(m)" />
                <span v-if="row.at.get(load)!.certified_watts !== null" class="mono">
                  {{ watts(row.at.get(load)!.certified_watts, row.at.get(load)!.expanded_watts) }}
                  <span class="quiet">± {{ spread(row.at.get(load)!.expanded_watts) }} W</span>
                  <span v-if="m.units > 1 || row.at.get(load)!.simulated" class="quiet of"
                    >{{ m.units > 1 ? row.at.get(load)!.unit_serial : ''
                    }}<span v-if="row.at.get(load)!.simulated" class="sim"> simulated</span></span
                  >
                </span>
                <span v-else class="quiet small">not tested</span>
              </template>
            </td>
            <td v-if="index === 0" :rowspan="rows(m).length" class="attention">
              <div v-for="note in m.attention" :key="note">{{ note }}</div>
              <div v-if="!m.attention.length" class="quiet">–</div>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
  </div>
  <SeriesForm v-if="changed" open :series="changed" @close="changed = null" />
  <SeriesForm v-if="adding" open @close="adding = false" />
  <ModelForm v-if="to" :key="to.id" open :series="to" @close="to = null" />
  <a-button v-if="hasNextPage" :loading="isFetchingNextPage" @click="fetchNextPage()">Show more models</a-button>
  <p v-if="series.length" class="key quiet">
    <svg width="150" height="22" aria-hidden="true">
      <rect x="0" y="8" width="96" height="10" class="k-solid" />
      <rect x="90" y="5" width="12" height="14" class="k-band" />
      <line x1="120" x2="120" y1="3" y2="21" class="k-notch" />
    </svg>
    Solid: certified, weakest channel of the weakest unit, with ± U at 95 %; hatched: on to uncertified; thin line:
    burst at the onset of clipping. Notch: a claim, its verdict above, with “?” where the evidence is in doubt. Bars of
    one model share a scale; “bridged” is per pair. <DecisionRule />
  </p>
</template>

<style scoped src="../../trade/filters.css"></style>
<style scoped>
/* Beside the serial number, in the room that is left there. */
.sim {
  font-family: 'Source Sans 3 Variable', system-ui, sans-serif;
  font-size: 12px;
}
.of {
  display: block;
  white-space: nowrap;
  font-size: 11.5px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 18px;
  margin-bottom: 10px;
}
.add {
  font: inherit;
  font-size: 13.5px;
  font-weight: 400;
  padding: 2px 8px;
  color: var(--certified);
  background: none;
  border: 1px solid transparent;
  border-radius: 3px;
  cursor: pointer;
}
.add:hover {
  background: var(--hover);
}
/* What is done with the whole line stands at its right. */
.head > p {
  flex: 1;
}
.add.to-line {
  margin-left: 0;
  padding: 5px 12px;
  color: inherit;
  background: var(--sheet);
  border-color: var(--rule-strong);
}
.filters {
  flex: 1 0 100%;
}
.board {
  width: 100%;
  min-width: 960px;
  border-collapse: collapse;
  background: var(--sheet);
  table-layout: fixed;
}
.board thead th {
  text-align: left;
  font-weight: 600;
  font-size: 14px;
  padding: 8px 14px;
  border-bottom: 1px solid var(--rule-strong);
}
.board thead th .quiet {
  font-weight: 400;
  font-size: 13px;
}
.board th:first-child {
  width: 226px;
}
.board th:nth-child(2) {
  width: 132px;
}
.board th:last-child {
  width: 164px;
}
.series th {
  text-align: left;
  padding: 10px 14px 3px;
  font-size: 16px;
}
.series .quiet {
  font-weight: 400;
  font-size: 14px;
  margin-left: 6px;
}
.first > * {
  border-top: 1px solid var(--rule);
}
.model {
  text-align: left;
  vertical-align: top;
  padding: 8px 14px;
  font-weight: 600;
}
.model .quiet {
  display: block;
  line-height: 1.3;
  font-weight: 400;
  font-size: 13px;
}
.group {
  padding: 9px 14px;
  font-size: 14px;
  vertical-align: top;
}
.cell {
  padding: 6px 14px 3px;
  vertical-align: top;
  font-size: 14px;
}
.cell .mono {
  display: block;
  line-height: 1.3;
}
.small {
  font-size: 13px;
}
.attention {
  padding: 9px 14px;
  vertical-align: top;
  font-size: 14px;
}
.key {
  display: flex;
  align-items: center;
  gap: 10px;
  font-size: 13px;
  margin-top: 12px;
}
.key svg {
  flex: none;
  width: 130px;
}
.k-solid {
  fill: var(--certified);
}
.k-band {
  fill: var(--certified-band);
}
.k-notch {
  stroke: var(--claim);
  stroke-width: 2.5;
}
.empty {
  padding: 40px 0;
}
</style>
