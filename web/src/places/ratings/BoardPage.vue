<script setup lang="ts">
// The whole line in one look: at every load what is published and printed, and what has to be done first.
import { API } from '../../kit/base'
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import type { BoardView, CellView } from '../../api/types'
import { useAddress } from '../../kit/address'
import PageFrame from '../../kit/PageFrame.vue'
import { figure } from '../../kit/quantity'
import { day, ohms } from '../../trade/format'
import StandingMark from './StandingMark.vue'
import { STANDING_ACTS, STANDING_WORDS, toCell } from './words'
import type { Standing } from './words'

const SeriesProposals = defineAsyncComponent(() => import('./SeriesProposals.vue'))
type Model = BoardView['series'][number]['models'][number]
/** Which price a watt is paid by; none is shown where none is chosen. */
const price = useAddress<'' | 'list' | 'street'>('price', '', ['', 'list', 'street'])
const {
  data: board,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['board', () => price.value],
  queryFn: () => answered(client.GET('/api/ratings', { params: { query: { price: price.value || 'list' } } })),
})
const { data: audits } = useQuery({ queryKey: ['audits'], queryFn: () => answered(client.GET('/api/audits')) })
/** Units that audits are still waiting for. */
const owed = computed(() => audits.value?.reduce((sum, one) => sum + one.owed, 0) ?? 0)
const ORDER = Object.keys(STANDING_WORDS) as Standing[]
const show = useAddress<'' | Standing>('show', '', ['', ...ORDER])
const MOST = 8
const PRICES = ['list', 'street'] as const
const setPrice = (one: (typeof PRICES)[number]) => (price.value = price.value === one ? '' : one)
const all = ref(false)
const mayPropose = useMay('propose')
/** The series that is to be proposed as a whole. */
const proposed = ref<{ id: number; name: string } | null>(null)

const models = computed(() => board.value?.series.flatMap((series) => series.models) ?? [])
const cells = computed(() => models.value.flatMap((model) => model.cells.map((cell) => ({ model, cell }))))
const counts = computed(() => {
  const found = new Map<Standing, number>()
  for (const { cell } of cells.value) found.set(cell.standing, (found.get(cell.standing) ?? 0) + 1)
  return found
})
/** What is to be done, the gravest first. */
const todo = computed(() =>
  cells.value
    .filter(({ cell }) => cell.to_do)
    .sort((one, other) => ORDER.indexOf(one.cell.standing) - ORDER.indexOf(other.cell.standing)),
)
const key = (cell: { load_ohms: number; bridged: boolean }) => `${cell.load_ohms}${cell.bridged ? ' bridged' : ''}`
const loads = computed(() => {
  const found = new Map(
    cells.value.map(({ cell }) => [key(cell), { load_ohms: cell.load_ohms, bridged: cell.bridged }]),
  )
  return [...found.values()].sort(
    (one, other) => Number(one.bridged) - Number(other.bridged) || other.load_ohms - one.load_ohms,
  )
})
const shown = computed(
  () =>
    board.value?.series
      .map((series) => ({
        ...series,
        models: series.models.filter((m) => !show.value || m.cells.some((cell) => cell.standing === show.value)),
      }))
      .filter((series) => series.models.length) ?? [],
)

/** One row a group and kind of power: its label and its cell at each load. */
function rows(model: Model) {
  const found = new Map<string, Map<string, CellView>>()
  for (const cell of model.cells) {
    const label = cell.kind === 'burst' ? `${cell.group}, burst` : cell.group
    found.set(label, (found.get(label) ?? new Map<string, CellView>()).set(key(cell), cell))
  }
  return [...found].map(([label, at]) => ({ label, at }))
}
const group = (cell: CellView) =>
  `${cell.group}, ${ohms(cell.load_ohms)}${cell.bridged ? ' bridged' : ''}${cell.kind === 'burst' ? ', burst' : ''}`
/** What documents print, where that is not what is rated. */
const printed = (cell: CellView) =>
  cell.printed_watts !== null && cell.printed_watts !== cell.rated_watts ? `printed ${cell.printed_watts} W` : ''
</script>

<template>
  <PageFrame title="Ratings" :pending="isPending" :error="error" :empty="!models.length" @retry="refetch">
    <template #head>
      <header class="head">
        <h1>Ratings</h1>
        <p class="quiet">What is promised of each model, on what it rests, and what no longer holds.</p>
        <RouterLink class="no-print" to="/ratings/audits">Audits{{ owed ? `, ${owed} owed` : '' }}</RouterLink>
        <RouterLink class="no-print" to="/ratings/compare">Compare units</RouterLink>
        <a class="no-print" :href="`${API}/ratings/sheet.xlsx?price=${price || 'list'}`" download>Spreadsheet</a>
        <a class="no-print" :href="`${API}/ratings/sheet.pdf?price=${price || 'list'}`" download>PDF, A4</a>
        <a class="no-print" :href="`${API}/ratings/sheet.pdf?price=${price || 'list'}&paper=a3`" download>A3</a>
      </header>
    </template>
    <template #empty>
      There is no product line on record yet: <RouterLink to="/line">enter one</RouterLink>, and measure its units.
    </template>
    <div class="filters no-print" role="group" aria-label="Show models with a load that is …">
      <button :aria-pressed="!show" @click="show = ''">All</button>
      <template v-for="one in ORDER" :key="one">
        <button v-if="counts.get(one)" :aria-pressed="show === one" @click="show = one">
          <StandingMark :standing="one" /> <span class="mono">{{ counts.get(one) }}</span>
        </button>
      </template>
      <button v-for="one in PRICES" :key="one" class="price" :aria-pressed="price === one" @click="setPrice(one)">
        {{ one }} price a watt
      </button>
    </div>
    <div class="sheet">
      <section class="todo" aria-labelledby="first">
        <h2 id="first">To do first</h2>
        <p v-if="!todo.length" class="quiet">Nothing: every load that is printed is backed.</p>
        <ol>
          <li v-for="one in all ? todo : todo.slice(0, MOST)" :key="`${one.model.id}${group(one.cell)}`">
            <RouterLink :to="toCell(one.model.id, one.cell)">
              <StandingMark :standing="one.cell.standing" :word="STANDING_ACTS[one.cell.standing]" />
            </RouterLink>
            <span class="where"
              >{{ one.model.name }} <span class="quiet">{{ group(one.cell) }}</span></span
            >
            <span class="why quiet">{{ one.cell.why }}</span>
          </li>
        </ol>
        <button v-if="todo.length > MOST" class="more no-print" :aria-expanded="all" @click="all = !all">
          {{ all ? 'Show the first ones only' : `Show all ${todo.length}` }}
        </button>
      </section>
      <div class="scrolls" role="region" aria-label="Ratings by load" tabindex="0">
        <table class="board">
          <thead>
            <tr>
              <th scope="col">Model</th>
              <th v-for="load in loads" :key="key(load)" scope="col">
                {{ ohms(load.load_ohms) }} <span v-if="load.bridged" class="quiet">bridged</span>
              </th>
            </tr>
          </thead>
          <tbody v-for="series in shown" :key="series.id">
            <tr class="series">
              <th :colspan="loads.length + 1" scope="rowgroup">
                {{ series.name }}
                <button
                  v-if="mayPropose"
                  type="button"
                  class="more propose no-print"
                  :aria-label="`Propose what the units of ${series.name} bear`"
                  @click="proposed = series"
                >
                  Propose what its units bear
                </button>
              </th>
            </tr>
            <template v-for="model in series.models" :key="model.id">
              <tr v-for="(row, index) in rows(model)" :key="row.label" :class="{ first: index === 0 }">
                <th scope="row">
                  <RouterLink v-if="index === 0" :to="`/models/${model.id}`">{{ model.name }}</RouterLink>
                  <span class="quiet group">{{ row.label }}</span>
                </th>
                <td v-for="load in loads" :key="key(load)">
                  <RouterLink
                    v-if="row.at.get(key(load))"
                    class="cell"
                    :to="toCell(model.id, row.at.get(key(load))!)"
                    :title="row.at.get(key(load))!.why || row.at.get(key(load))!.rests_on"
                  >
                    <span v-if="row.at.get(key(load))!.rated_watts !== null" class="figure"
                      >{{ row.at.get(key(load))!.rated_watts }} W</span
                    >
                    <StandingMark
                      :standing="row.at.get(key(load))!.standing"
                      :bare="row.at.get(key(load))!.standing === 'nothing'"
                    />
                    <span v-if="printed(row.at.get(key(load))!)" class="small">{{
                      printed(row.at.get(key(load))!)
                    }}</span>
                    <span v-if="price && row.at.get(key(load))!.value" class="small"
                      >{{ figure(row.at.get(key(load))!.value!.per_watt, 2) }}
                      {{ row.at.get(key(load))!.value!.currency }}/W</span
                    >
                    <span v-if="row.at.get(key(load))!.ends_on" class="small"
                      >valid until {{ day(row.at.get(key(load))!.ends_on!) }}</span
                    >
                    <span v-if="row.at.get(key(load))!.simulated" class="small">simulated</span>
                  </RouterLink>
                </td>
              </tr>
            </template>
          </tbody>
        </table>
      </div>
    </div>
    <SeriesProposals v-if="proposed" :series="proposed" @close="proposed = null" />
    <p class="quiet key">
      The figure is what is published, of each channel (of each pair where bridged). “Backed”: it is published, nothing
      unsettles it, and no document prints more.
    </p>
  </PageFrame>
</template>

<style scoped src="../../trade/filters.css"></style>
<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
  align-items: baseline;
}
.filters {
  margin-bottom: 12px;
}
.filters .price:first-of-type {
  margin-left: auto;
}
.sheet {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 28px;
  align-items: start;
}
.todo {
  order: 2;
}
.todo h2 {
  margin: 0 0 4px;
  padding: 7px 0;
  border-bottom: 1px solid var(--rule-strong);
  font-size: 16px;
}
.todo ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
.todo li {
  display: grid;
  gap: 1px;
  padding: 7px 0 8px;
  border-bottom: 1px solid var(--rule);
}
.todo li a {
  font-weight: 600;
}
.why,
.where {
  font-size: 13.5px;
  line-height: 1.35;
  overflow-wrap: anywhere;
}
.more {
  margin-top: 8px;
  padding: 4px 0;
  font: inherit;
  font-size: 13.5px;
  color: var(--certified);
  background: none;
  border: none;
  cursor: pointer;
}
.propose {
  margin: 0 0 0 12px;
  padding: 2px 8px;
  font-weight: 400;
}
.board {
  width: 100%;
  min-width: 620px;
  border-collapse: collapse;
  background: var(--sheet);
}
.board thead th {
  padding: 8px 12px;
  text-align: left;
  font-size: 14px;
  font-weight: 600;
  border-bottom: 1px solid var(--rule-strong);
}
.board thead .quiet {
  font-weight: 400;
}
.series th {
  padding: 10px 12px 3px;
  text-align: left;
  font-size: 15px;
}
.first > * {
  border-top: 1px solid var(--rule);
}
tbody th[scope='row'] {
  padding: 6px 12px;
  text-align: left;
  vertical-align: top;
  font-weight: 600;
}
.group {
  display: block;
  font-size: 13px;
  font-weight: 400;
}
td {
  padding: 0;
  vertical-align: top;
}
.cell {
  display: grid;
  gap: 0;
  padding: 6px 12px;
  font-size: 13px;
  line-height: 1.4;
  color: inherit;
  text-decoration: none;
}
.cell:hover {
  background: var(--hover);
}
.figure {
  font-size: 17px;
  font-weight: 600;
  font-variant-numeric: tabular-nums;
}
.small {
  font-size: 12.5px;
  color: var(--ink-2);
}
.key {
  margin-top: 12px;
  font-size: 13px;
}
@media (max-width: 1000px) {
  .sheet {
    grid-template-columns: minmax(0, 1fr);
  }
  .todo {
    order: 0;
  }
}
@media print {
  .sheet {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
