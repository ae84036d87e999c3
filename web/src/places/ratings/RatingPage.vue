<script setup lang="ts">
// A rating as one reads it before signing: what is promised, on what it rests, what changed, what unsettles it.
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'
import client, { answered } from '../../api/client'
import type { RatingView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { figure } from '../../kit/quantity'
import { counted, day, moment } from '../../trade/format'
import BoundTold from './BoundTold.vue'
import IndividualsChart from './IndividualsChart.vue'
import ProbabilityPlot from './ProbabilityPlot.vue'
import PrintTexts from './PrintTexts.vue'
import RatingActs from './RatingActs.vue'
import SampleStrip from './SampleStrip.vue'
import SampleTable from './SampleTable.vue'
import StandingMark from './StandingMark.vue'
import { STATE_STANDING, STATE_WORDS, STEP_WORDS } from './words'

const DraftForm = defineAsyncComponent(() => import('./DraftForm.vue'))
const props = defineProps<{ id: number }>()
const {
  data: rating,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['rating', () => props.id],
  queryFn: () => answered(client.GET('/api/ratings/{rating_id}', { params: { path: { rating_id: props.id } } })),
})
const changing = ref(false)
const name = computed(() => (rating.value ? `Rating ${rating.value.id}, ${rating.value.model}` : ''))
const standing = computed(() =>
  rating.value?.state === 'published' && rating.value.unsettled.length
    ? 'look_again'
    : STATE_STANDING[rating.value?.state ?? 'draft'],
)
/** Where it stands, in words; what else there is to say of it follows. */
const stands = computed(() => {
  const last = rating.value?.steps.at(-1)
  if (!rating.value || !last) return ''
  const until = rating.value.valid_until ? `, valid until ${day(rating.value.valid_until)}` : ''
  return `${STATE_WORDS[rating.value.state]} since ${day(last.at)}${until}`
})
const plotted = computed(() => (rating.value?.population.rows.filter((row) => row.score !== null).length ?? 0) >= 3)
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
const SAYS = { more: 'more than is rated', same: 'as rated', less: 'less than is rated' } as const
</script>

<template>
  <PageFrame
    :title="name"
    :trail="
      rating
        ? [
            { name: 'Ratings', to: '/ratings' },
            { name: rating.model, to: `/models/${rating.model_id}` },
            { name: `Rating ${rating.id}` },
          ]
        : []
    "
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template v-if="rating">
      <header class="head">
        <h1>
          {{ rating.terms.watts }} W <span class="of">{{ rating.model }}</span>
        </h1>
        <p class="wording">{{ rating.wording }}</p>
        <p class="state">
          <StandingMark :standing="standing" :word="stands" />
          <span v-if="rating.simulated" class="mark" title="From a simulated bench: no amplifier gave this."
            >simulated</span
          >
        </p>
      </header>
      <div class="sheet">
        <div>
          <section class="section">
            <header><h2>What is promised</h2></header>
            <p class="promise">
              {{ percent(rating.terms.share) }} of all units reach it, at
              {{ percent(rating.terms.confidence) }} confidence<template v-if="rating.basis?.revisions.length">
                – revision {{ rating.basis.revisions.join(', ') }}</template
              >. It holds for {{ counted(rating.terms.valid_months, 'month') }} from the last time somebody answered for
              it.
            </p>
            <BoundTold :found="rating.population" />
            <p v-if="rating.state === 'draft' && rating.population.bound?.more_units" class="missing">
              {{ counted(rating.population.bound.more_units, 'more unit') }} would bear {{ rating.terms.watts }} W, if
              they are as these.
            </p>
            <p v-if="!rating.population.bound">No unit has a figure at these conditions: run one there.</p>
            <SampleStrip
              v-if="rating.population.rows.some((row) => row.watts !== null)"
              :found="rating.population"
              wanted="rating"
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
          <SampleTable :found="rating.population" :said="rating.basis ? 'as it was proposed' : ''" />
          <section v-if="plotted" class="section">
            <header>
              <h2>How the units scatter</h2>
              <span class="quiet">on a straight line where they do as a normal distribution</span>
            </header>
            <ProbabilityPlot :found="rating.population" />
          </section>
        </div>
        <aside>
          <section v-if="rating.sent_back" class="told" role="status">
            <h2>Sent back</h2>
            <p>{{ rating.sent_back.by }}: {{ rating.sent_back.reason }}</p>
          </section>
          <RatingActs :rating="rating" @change="changing = true" />
          <section v-if="rating.before_id">
            <h2>
              Since <RouterLink :to="`/ratings/${rating.before_id}`">rating {{ rating.before_id }}</RouterLink>
            </h2>
            <ul v-if="rating.changes.length">
              <li v-for="one in rating.changes" :key="one">{{ one }}</li>
            </ul>
            <p v-else class="quiet">
              {{ rating.basis ? 'Nothing is other than there.' : 'Said once it is proposed.' }}
            </p>
          </section>
          <section>
            <h2>Where it is printed</h2>
            <ul v-if="rating.printed.length">
              <li v-for="one in rating.printed" :key="one.claim_id" :class="one.says">
                {{ one.document }}<template v-if="one.stands_at">, {{ one.stands_at }}</template
                >: <span class="mono">{{ one.watts }} W</span>
                <span :class="one.says === 'more' ? 'over' : 'quiet'">, {{ SAYS[one.says] }}</span>
              </li>
            </ul>
            <p v-else class="quiet">No document states a figure at these conditions.</p>
            <RouterLink v-if="rating.printed.length" class="small" :to="`/models/${rating.model_id}#documents`"
              >Its documents and claims</RouterLink
            >
          </section>
          <PrintTexts v-if="rating.state === 'published'" :id="rating.id" />
          <section>
            <h2>Life</h2>
            <ol class="life">
              <li v-for="step in rating.steps" :key="step.number">
                <span class="quiet">{{ moment(step.at) }}</span> {{ step.by }} {{ STEP_WORDS[step.kind] }}
                <span v-if="step.reason" class="quiet">“{{ step.reason }}”</span>
              </li>
            </ol>
          </section>
          <section v-if="rating.basis">
            <h2>Basis</h2>
            <dl>
              <dt>Measured by</dt>
              <dd>{{ rating.basis.measured_by.join(', ') }}</dd>
              <dt>Read with</dt>
              <dd>{{ rating.basis.instruments.join('; ') || 'not stated' }}</dd>
              <template v-if="rating.basis.first_reading && rating.basis.last_reading">
                <dt>Readings</dt>
                <dd>{{ day(rating.basis.first_reading) }} to {{ day(rating.basis.last_reading) }}</dd>
              </template>
              <dt>Method</dt>
              <dd>{{ rating.basis.method }}, Rulvek {{ rating.basis.program }}</dd>
              <dt>SHA-256</dt>
              <dd class="mono digest">{{ rating.digest }}</dd>
            </dl>
            <p class="files no-print">
              <a :href="`/api/ratings/${rating.id}/dossier.pdf`" download>Dossier (PDF, signed)</a>
              <a :href="`/api/ratings/${rating.id}/dossier.zip`" download>with its records (ZIP)</a>
              <a href="/api/signing-certificate" download>Certificate</a>
            </p>
          </section>
        </aside>
      </div>
      <DraftForm
        v-if="changing"
        open
        :model="rating.model_id"
        :drafted="{ ...rating.terms, left_out: rating.terms.left_out.map((one) => one.unit_id) }"
        :rows="rating.population.rows"
        :known="rating"
        @close="changing = false"
      />
    </template>
  </PageFrame>
</template>

<style scoped>
.head h1 {
  margin-bottom: 0;
  font-size: 30px;
}
.of {
  margin-left: 8px;
  font-size: 20px;
  font-weight: 400;
}
.wording {
  margin: 2px 0 6px;
  font-size: 17px;
}
.state {
  display: flex;
  gap: 14px;
  align-items: baseline;
  margin: 0 0 4px;
}
.sheet {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: 36px;
  align-items: start;
}
.missing {
  margin: 6px 0 0;
  font-weight: 600;
}
.promise {
  margin: 10px 0 4px;
}
aside {
  font-size: 14px;
}
aside section {
  padding-top: 14px;
}
aside h2 {
  margin: 0 0 4px;
  padding-bottom: 4px;
  border-bottom: 1px solid var(--rule);
  font-size: 15px;
}
ul,
.life {
  margin: 4px 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 3px 0;
  line-height: 1.35;
  overflow-wrap: anywhere;
}
.over {
  color: var(--danger);
  font-weight: 600;
}
.told {
  border-left: 3px solid var(--doubt);
  padding: 8px 12px;
  margin-top: 14px;
  background: var(--sheet);
}
dl {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  gap: 3px 10px;
  margin: 4px 0;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.digest {
  font-size: 11.5px;
  line-height: 1.4;
}
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
}
.small {
  font-size: 13px;
}
@media (max-width: 1000px) {
  .sheet {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
}
</style>
