<script setup lang="ts">
// What a rating promises and on what it rests: its units, how they came since, and how they scatter.
import { computed } from 'vue'
import type { RatingView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'
import { counted } from '../../trade/format'
import BoundTold from './BoundTold.vue'
import ChanceCurve from './ChanceCurve.vue'
import IndividualsChart from './IndividualsChart.vue'
import ProbabilityPlot from './ProbabilityPlot.vue'
import SampleStrip from './SampleStrip.vue'
import SampleTable from './SampleTable.vue'

const props = defineProps<{
  rating: RatingView
  /** Somebody without an account reads it: nothing leads to the records. */
  shared?: boolean
}>()
/** The same conditions, where units may be left out to see what that changes. */
const trying = computed(() => {
  const { at, watts } = props.rating.terms
  return new URLSearchParams({
    at: `${at.group}/${at.load_ohms}/${at.bridged ? 'pair' : 'channel'}`,
    print: `${watts}`,
    ...(at.kind === 'burst' && { kind: 'burst' }),
    ...(at.supply_volts && { volts: `${at.supply_volts}` }),
    ...(at.band_low_hz && at.band_high_hz && { from: `${at.band_low_hz}`, to: `${at.band_high_hz}` }),
  })
})
const plotted = computed(() => props.rating.population.rows.filter((row) => row.score !== null).length >= 3)
const percent = (part: number) => `${figure(100 * part, 0)} %`
/** Lots that came since, by variables: as good as promised is accepted 95 times of 100. */
const LOTS: Column<RatingView['lots'][number]>[] = [
  { key: 'lot', head: 'Lot since', text: (lot) => lot.lot || 'not known' },
  { key: 'units', head: 'Units', text: (lot) => `${lot.units}`, value: (lot) => lot.units, num: true },
  { key: 'mean', head: 'Mean', unit: 'W', text: (lot) => figure(lot.mean, 1), value: (lot) => lot.mean, num: true },
  {
    key: 'quality',
    head: 'Spreads above the rating',
    text: (lot) => (lot.quality === null ? '–' : `${figure(lot.quality, 2)}, k = ${figure(lot.k, 2)}`),
    value: (lot) => lot.quality,
    num: true,
  },
  {
    key: 'accepted',
    head: 'By variables',
    text: (lot) => (lot.accepted === null ? 'too few units to tell' : lot.accepted ? 'accepted' : 'not accepted'),
  },
]
</script>

<template>
  <div>
    <section class="section">
      <header><h2>What is promised</h2></header>
      <p class="promise">
        {{ percent(rating.terms.share) }} of all units reach it, at
        {{ percent(rating.terms.confidence) }} confidence<template v-if="rating.basis?.revisions.length">
          – revision {{ rating.basis.revisions.join(', ') }}</template
        >. It holds for {{ counted(rating.terms.valid_months, 'month') }} from the last time somebody answered for it.
      </p>
      <BoundTold :found="rating.population" />
      <p v-if="!shared" class="no-print">
        <RouterLink :to="`/models/${rating.model_id}/bears?${trying}`"
          >Try other units, another share or confidence</RouterLink
        >
      </p>
      <p v-if="rating.state === 'draft' && rating.population.bound?.more_units" class="missing">
        {{ counted(rating.population.bound.more_units, 'more unit') }} would bear {{ rating.terms.watts }} W, if they
        are as these.
      </p>
      <p v-if="!rating.population.bound">No unit counts at these conditions: the table says why.</p>
      <SampleStrip
        v-if="rating.population.rows.some((row) => row.watts !== null)"
        :found="rating.population"
        wanted="rating"
      />
    </section>
    <section v-if="rating.population.bound?.chances.length" class="section">
      <header>
        <h2>What more units would do</h2>
        <span class="quiet">the chance that so many bear it, if production is as these say</span>
      </header>
      <ChanceCurve
        :chances="rating.population.bound.chances"
        :watts="rating.terms.watts"
        :units="rating.population.bound.n"
      />
    </section>
    <section v-if="rating.chart" class="section">
      <header>
        <h2>Units as they came</h2>
        <span class="quiet">between three sigma of the sample, by its moving ranges</span>
      </header>
      <IndividualsChart :chart="rating.chart" :rated="rating.terms.watts" />
      <DataTable
        v-if="rating.lots.length"
        :id="(lot) => lot.lot"
        name="Lots that came since"
        :rows="rating.lots"
        :columns="LOTS"
      />
    </section>
    <SampleTable :found="rating.population" :said="rating.basis ? 'as it was proposed' : ''" :unlinked="shared" />
    <section v-if="plotted" class="section">
      <header>
        <h2>How the units scatter</h2>
        <span class="quiet">on a straight line where they do as a normal distribution</span>
      </header>
      <ProbabilityPlot :found="rating.population" />
    </section>
  </div>
</template>

<style scoped>
.missing {
  margin: 6px 0 0;
  font-weight: 600;
}
.promise {
  margin: 10px 0 4px;
}
</style>
