<script setup lang="ts">
// Two groups of units on one scale: lots, siblings, before and after a change, and whether what they differ by matters.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import { useModel } from '../../api/queries'
import type { AspectView } from '../../api/types'
import { useAddress } from '../../kit/address'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import { ticks } from '../../kit/ticks'
import { counted, place } from '../../trade/format'

const {
  data: board,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['board'],
  queryFn: () => answered(client.GET('/api/ratings')),
})
const models = computed(() => board.value?.series.flatMap((series) => series.models) ?? [])
const choices = computed(() => models.value.map((one) => ({ value: `${one.id}`, label: one.name })))
const first = useAddress<string>('first', '')
const second = useAddress<string>('second', '')
const firstLot = useAddress<string>('lot', '')
const secondLot = useAddress<string>('against', '')
const at = useAddress<string>('at', '')
const one = computed(() => Number(first.value) || (models.value[0]?.id ?? 0))
const other = computed(() => Number(second.value) || one.value)
const { data: firstModel } = useModel(one)
const { data: secondModel } = useModel(other)
const lotsOf = (model: typeof firstModel.value) => [
  { value: '', label: 'all' },
  ...[...new Set(model?.units.map((unit) => unit.lot).filter(Boolean))]
    .sort()
    .map((lot) => ({ value: lot, label: lot })),
]
const places = computed(() =>
  (firstModel.value?.reaches ?? []).map((reach) => ({
    value: `${reach.group}/${reach.load_ohms}/${reach.bridged ? 'pair' : 'channel'}`,
    label: `${reach.group}, ${place(reach)}`,
    reach,
  })),
)
const chosen = computed(() => places.value.find((each) => each.value === at.value) ?? places.value[0])
const picked = computed({ get: () => chosen.value?.value ?? null, set: (value) => (at.value = value ?? '') })
const picks = {
  first: computed({ get: () => `${one.value}`, set: (value) => ((first.value = value ?? ''), (firstLot.value = '')) }),
  second: computed({
    get: () => `${other.value}`,
    set: (value) => ((second.value = value ?? ''), (secondLot.value = '')),
  }),
}
/** Nothing is asked while both groups are the same. */
const differ = computed(() => one.value !== other.value || firstLot.value !== secondLot.value)
const question = computed(() => ({
  at: {
    group: chosen.value?.reach.group ?? '',
    load_ohms: chosen.value?.reach.load_ohms ?? 4,
    bridged: chosen.value?.reach.bridged ?? false,
    kind: 'continuous' as const,
    thd_n_percent: 1,
    revisions: [],
  },
  first: { model_id: one.value, lots: firstLot.value ? [firstLot.value] : [] },
  second: { model_id: other.value, lots: secondLot.value ? [secondLot.value] : [] },
  asked: { confidence: 0.95 },
}))
const {
  data: found,
  error: problem,
  isFetching,
} = useQuery({
  queryKey: ['comparison', question],
  enabled: () => !!chosen.value && differ.value,
  placeholderData: keepPreviousData,
  retry: false,
  queryFn: () => answered(client.POST('/api/comparisons', { body: question.value })),
})
const groups = computed(() => (found.value && differ.value ? [found.value.first, found.value.second] : []))
const range = computed(() => {
  const all = groups.value.flatMap((group) => group.units.flatMap((unit) => (unit.watts === null ? [] : [unit.watts])))
  const [low, high] = [Math.min(...all), Math.max(...all)]
  const pad = (high - low || 1) * 0.08
  return { low: low - pad, high: high + pad }
})
const left = (watts: number) => `${((watts - range.value.low) / (range.value.high - range.value.low)) * 100}%`
const marks = computed(() => ticks(range.value.low, range.value.high, 6))
/** What else there is to say of both groups, with how many units tell it and between which they lie. */
const ASPECTS: Record<AspectView['aspect'], { words: string; unit: string; digits: number }> = {
  halved_load: { words: 'Into half of the load', unit: 'dB more', digits: 2 },
  bass: { words: '40 Hz beside 1 kHz', unit: 'dB', digits: 2 },
  exponent: { words: 'Power follows the supply with V to the', unit: '', digits: 2 },
  efficiency: { words: 'Efficiency', unit: '%', digits: 1 },
  channels: { words: 'Strongest channel over weakest', unit: 'dB', digits: 2 },
  claimed: { words: 'Measured of what is claimed', unit: '%', digits: 1 },
  price: { words: 'List price a measured watt', unit: '', digits: 2 },
}
function aspectText(row: AspectView, told: AspectView['first']) {
  if (!told) return 'not known'
  const { unit, digits } = ASPECTS[row.aspect]
  const spread = told.units > 1 ? ` (${figure(told.low, digits)} to ${figure(told.high, digits)})` : ''
  const by = told.units > 1 ? `, ${counted(told.units, 'unit')}` : ', one unit'
  return `${figure(told.mean, digits)} ${told.currency || unit}`.trim() + spread + by
}
const aspects = computed<Column<AspectView>[]>(() => [
  { key: 'aspect', head: 'What else they differ in', text: (row) => ASPECTS[row.aspect].words },
  ...(found.value
    ? ([
        { key: 'first', head: found.value.first.name, text: (row: AspectView) => aspectText(row, row.first) },
        { key: 'second', head: found.value.second.name, text: (row: AspectView) => aspectText(row, row.second) },
      ] as Column<AspectView>[])
    : []),
])
type Compared = NonNullable<typeof found.value>['first']['units'][number]
const UNITS: Column<Compared>[] = [
  { key: 'serial', head: 'Unit', text: (row) => row.serial, look: 'mono' },
  { key: 'lot', head: 'Lot', text: (row) => row.lot },
  { key: 'watts', head: 'Weakest channel', unit: 'W', text: (row) => figure(row.watts, 2), num: true },
  { key: 'remark', head: 'Remark', text: (row) => row.left_out || (row.simulated ? 'simulated' : ''), look: 'quiet' },
]
const verdict = computed(() => {
  if (!found.value) return ''
  const least = `${figure(found.value.matters_watts, 1)} W`
  if (found.value.matters === null) return `Whether it is more than ${least} cannot be told from these units.`
  return found.value.matters ? `It is more than ${least}: it matters.` : `It is less than ${least}: it does not matter.`
})
</script>

<template>
  <PageFrame
    title="Compare units"
    :trail="[{ name: 'Ratings', to: '/ratings' }, { name: 'Compare units' }]"
    :pending="isPending"
    :error="error"
    :empty="!models.length"
    @retry="refetch"
  >
    <template #empty>There is no product line on record yet.</template>
    <h1>Compare units</h1>
    <div class="asks">
      <PickOne v-model="picks.first.value" label="Units of" :choices="choices" />
      <PickOne v-model="firstLot" label="Lot" :choices="lotsOf(firstModel)" />
      <PickOne v-model="picks.second.value" label="Against" :choices="choices" />
      <PickOne v-model="secondLot" label="Their lot" :choices="lotsOf(secondModel)" />
      <PickOne v-model="picked" label="Load" :choices="places" />
    </div>
    <p v-if="!differ" class="quiet">Choose two groups: another model, or a lot of one of them.</p>
    <ProblemNote v-else-if="problem" :error="problem" />
    <p v-else-if="!found && isFetching" class="quiet" role="status">Every unit is looked at …</p>
    <section v-else-if="found" class="section" :aria-busy="isFetching">
      <header>
        <h2>Difference</h2>
        <span class="quiet">weakest channel of each unit, at the reference voltage, 1 % THD+N</span>
      </header>
      <p class="figure">
        {{ found.watts > 0 ? '+' : '' }}{{ figure(found.watts, 2) }} W
        <span class="quiet">{{ found.db > 0 ? '+' : '' }}{{ figure(found.db, 2) }} dB</span>
      </p>
      <p>
        Between {{ figure(found.low, 2) }} W and {{ figure(found.high, 2) }} W, at
        {{ figure(100 * found.confidence, 0) }} % confidence,
        {{ found.by_pairs ? 'unit by unit' : 'whatever each group scatters by' }}. {{ verdict }}
      </p>
      <p v-for="note in found.notes" :key="note" class="quiet">{{ note }}</p>
      <div class="strips" role="img" aria-label="Units of both groups by their watts; the tables below have them all">
        <div v-for="group in groups" :key="group.name" class="line">
          <span class="name">{{ group.name }}</span>
          <div class="track">
            <i class="mean" :style="{ left: left(group.mean) }" :title="`mean ${figure(group.mean, 2)} W`" />
            <template v-for="unit in group.units" :key="unit.unit_id">
              <i
                v-if="unit.watts !== null"
                class="unit"
                :style="{ left: left(unit.watts) }"
                :title="`${unit.serial}: ${figure(unit.watts, 2)} W`"
              />
            </template>
          </div>
        </div>
        <div class="line">
          <span class="name">W</span>
          <div class="track scale">
            <span v-for="tick in marks" :key="tick.at" class="tick mono" :style="{ left: left(tick.at) }">{{
              tick.text
            }}</span>
          </div>
        </div>
      </div>
      <DataTable
        v-if="found.aspects.length"
        :id="(row) => row.aspect"
        name="What else they differ in"
        :rows="found.aspects"
        :columns="aspects"
        class="aspects"
        sort-name="aspects"
        plain
      />
      <div class="tables">
        <section v-for="group in groups" :key="group.name">
          <h3>{{ group.name }}</h3>
          <DataTable
            :id="(row) => row.unit_id"
            :name="`Units of ${group.name}`"
            :rows="group.units"
            :columns="UNITS"
            :to="(row) => (row.attempt_id ? `/attempts/${row.attempt_id}` : `/units/${row.unit_id}`)"
            fixed
            plain
          />
        </section>
      </div>
    </section>
  </PageFrame>
</template>

<style scoped>
.asks {
  display: flex;
  flex-wrap: wrap;
  gap: 12px 18px;
  padding: 10px 0;
}
.figure {
  margin: 10px 0 2px;
  font-size: 26px;
  font-weight: 600;
}
.figure .quiet {
  margin-left: 10px;
  font-size: 16px;
  font-weight: 400;
}
.strips {
  padding-top: 14px;
}
.line {
  display: grid;
  grid-template-columns: 210px minmax(0, 1fr);
  align-items: center;
}
.name {
  font-size: 14px;
}
.track {
  position: relative;
  height: 34px;
  border-bottom: 1px solid var(--rule);
}
.scale {
  height: 22px;
  border-bottom: none;
}
.unit,
.mean {
  position: absolute;
  bottom: 8px;
}
.unit {
  width: 11px;
  height: 11px;
  margin-left: -5.5px;
  border-radius: 50%;
  background: var(--certified);
}
.mean {
  bottom: 0;
  height: 28px;
  border-left: 2px solid var(--claim);
}
.tick {
  position: absolute;
  transform: translateX(-50%);
  font-size: 12px;
  color: var(--ink-2);
}
.aspects {
  margin-top: 18px;
}
.tables {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(320px, 1fr));
  gap: 24px;
  align-items: start;
  padding-top: 18px;
}
caption {
  padding-bottom: 6px;
  text-align: left;
  font-weight: 600;
}
</style>
