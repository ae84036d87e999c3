<script setup lang="ts">
// Which figure a model's production bears by its units on record: at some conditions, with some confidence.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import { useModel } from '../../api/queries'
import { useAddress, useAddressNumber } from '../../kit/address'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { saysOf } from '../../kit/problem'
import { place } from '../../trade/format'
import BoundTold from './BoundTold.vue'
import ChanceCurve from './ChanceCurve.vue'
import ProbabilityPlot from './ProbabilityPlot.vue'
import SampleStrip from './SampleStrip.vue'
import SampleTable from './SampleTable.vue'

const DraftForm = defineAsyncComponent(() => import('./DraftForm.vue'))

const props = defineProps<{ id: number }>()
const { data: model, error, isPending, refetch } = useModel(() => props.id)
const at = useAddress<string>('at', '')
const kind = useAddress<'continuous' | 'burst'>('kind', 'continuous', ['continuous', 'burst'])
const share = useAddress<string>('share', '0.95', ['0.9', '0.95', '0.99'])
const confidence = useAddress<string>('confidence', '0.95', ['0.9', '0.95', '0.99'])
const wanted = useAddressNumber('print')
const volts = useAddressNumber('volts')
/** Of a band both edges; none for whichever tones were run. */
const low = useAddressNumber('from')
const high = useAddressNumber('to')
const revision = useAddress<string>('revision', '')
const left = useAddress<string>('without', '')
/** Units that are left out to see what that changes, by their numbers. */
const without = computed(() => left.value.split(',').map(Number).filter(Boolean))
function leaveOut(unit: number) {
  const now = without.value.filter((one) => one !== unit)
  left.value = (now.length === without.value.length ? [...now, unit] : now).join(',')
}

const places = computed(() =>
  (model.value?.reaches ?? []).map((one) => ({
    value: `${one.group}/${one.load_ohms}/${one.bridged ? 'pair' : 'channel'}`,
    label: `${one.group}, ${place(one)}`,
    reach: one,
  })),
)
const chosen = computed(() => places.value.find((one) => one.value === at.value) ?? places.value[0])
const picked = computed({ get: () => chosen.value?.value ?? null, set: (value) => (at.value = value ?? '') })
const KINDS = [
  { value: 'continuous' as const, label: 'continuous, 1 % THD+N' },
  { value: 'burst' as const, label: 'burst, onset of clipping' },
]
const PARTS = ['0.9', '0.95', '0.99'].map((value) => ({ value, label: `${Number(value) * 100} %` }))

const question = computed(() => ({
  at: {
    group: chosen.value?.reach.group ?? '',
    load_ohms: chosen.value?.reach.load_ohms ?? 4,
    bridged: chosen.value?.reach.bridged ?? false,
    kind: kind.value,
    thd_n_percent: 1,
    supply_volts: volts.value,
    band_low_hz: low.value,
    band_high_hz: high.value,
    revisions: revision.value ? [revision.value] : [],
  },
  share: Number(share.value),
  confidence: Number(confidence.value),
  step_watts: null,
  wanted_watts: wanted.value,
  without: without.value,
}))
const {
  data: found,
  error: problem,
  isFetching,
} = useQuery({
  queryKey: ['population', () => props.id, question],
  enabled: () => !!chosen.value,
  placeholderData: keepPreviousData,
  retry: false,
  queryFn: () =>
    answered(
      client.POST('/api/models/{model_id}/population', {
        params: { path: { model_id: props.id } },
        body: question.value,
      }),
    ),
})
const bound = computed(() => found.value?.bound ?? null)
/** Revisions that units are of; a rating covers one, or all. */
const revisions = computed(() => {
  const known = [...new Set(found.value?.rows.map((row) => row.revision).filter(Boolean))].sort()
  return [{ value: '', label: 'all' }, ...known.map((value) => ({ value, label: value }))]
})
const plotted = computed(() => (found.value?.rows.filter((row) => row.score !== null).length ?? 0) >= 3)
const drawn = computed(() => found.value?.rows.some((row) => row.watts !== null))
/** What a rating by what is shown here would say; the form asks for the rest. */
const drafted = computed(() => ({
  at: question.value.at,
  watts: wanted.value ?? bound.value?.proposal_watts ?? null,
  share: question.value.share,
  confidence: question.value.confidence,
  left_out: without.value,
}))
const mayPropose = useMay('propose')
const drafting = ref(false)
</script>

<template>
  <PageFrame
    :title="model ? `What its units bear, ${model.name}` : ''"
    :trail="
      model
        ? [
            { name: 'Ratings', to: '/ratings' },
            { name: model.name, to: `/models/${model.id}` },
            { name: 'What its units bear' },
          ]
        : []
    "
    :pending="isPending"
    :error="error"
    @retry="refetch"
  />
  <template v-if="model">
    <h1>
      What its units bear <span class="quiet of">{{ model.name }}</span>
    </h1>
    <div class="asks">
      <PickOne v-model="picked" label="Load" :choices="places" />
      <PickOne v-model="kind" label="Power" :choices="KINDS" />
      <PickOne v-model="share" label="Of all units" :choices="PARTS" />
      <PickOne v-model="confidence" label="Confidence" :choices="PARTS" />
      <PickOne v-if="revisions.length > 2" v-model="revision" label="Revision" :choices="revisions" />
      <NumberField v-model="volts" label="Supply" unit="V" :min="1" :max="30" placeholder="reference" class="short" />
      <template v-if="kind === 'continuous'">
        <NumberField v-model="low" label="Band from" unit="Hz" :min="1" placeholder="any tone" class="short" />
        <NumberField
          v-model="high"
          label="to"
          unit="Hz"
          :min="1"
          placeholder="any tone"
          class="short"
          :problem="saysOf(problem, 'at.band_high_hz') || saysOf(problem, 'band_high_hz')"
        />
      </template>
      <NumberField v-model="wanted" class="short" label="Figure to print" unit="W" :min="0.001" :max="100000" />
    </div>
    <ProblemNote v-if="problem" :error="problem" />
    <p v-if="!found && isFetching" class="quiet" role="status">Every unit is looked at …</p>
    <template v-if="found">
      <section class="section" :aria-busy="isFetching">
        <header>
          <h2>Proposal</h2>
          <span class="quiet"
            >weakest channel of each unit, at {{ volts === null ? 'the reference voltage' : `${volts} V` }}</span
          >
        </header>
        <div v-if="bound" class="told">
          <p class="figure">
            <strong v-if="bound.proposal_watts !== null">{{ bound.proposal_watts }} W</strong>
            <strong v-else>No figure to propose</strong>
            <span v-if="found.simulated" class="mark" title="From a simulated bench: no amplifier gave this."
              >simulated</span
            >
            <a-button
              v-if="mayPropose && bound.proposal_watts !== null"
              class="no-print"
              type="primary"
              @click="drafting = true"
              >Draft a rating</a-button
            >
          </p>
          <BoundTold :found="found" />
          <p v-if="bound.more_units" class="note">
            {{ bound.more_units }} more units would bear {{ found.wanted_watts }} W, if they are as these.
          </p>
          <p v-else-if="bound.more_units === 0" class="note">These units bear {{ found.wanted_watts }} W.</p>
        </div>
        <p v-else class="told">No unit counts at these conditions: the table says why.</p>
        <SampleStrip v-if="drawn" :found="found" />
        <ProbabilityPlot v-if="plotted" :found="found" />
        <p v-if="bound?.chances.length" class="quiet">
          Chance that so many units bear {{ found.wanted_watts }} W, if production is as these say:
        </p>
        <ChanceCurve
          v-if="bound?.chances.length && found.wanted_watts !== null"
          :chances="bound.chances"
          :watts="found.wanted_watts"
          :units="bound.n"
        />
      </section>
      <SampleTable :found="found" act="Try without">
        <template #act="{ row }">
          <a-button
            v-if="row.watts !== null && (!row.left_out || without.includes(row.unit_id))"
            class="no-print"
            size="small"
            @click="leaveOut(row.unit_id)"
            >{{ without.includes(row.unit_id) ? 'Take back' : 'Leave out' }}</a-button
          >
        </template>
      </SampleTable>
      <DraftForm
        v-if="drafting"
        open
        :model="model.id"
        :drafted="drafted"
        :rows="found.rows"
        @close="drafting = false"
      />
    </template>
  </template>
</template>

<style scoped>
.of {
  font-size: 18px;
  font-weight: 400;
}
.asks {
  display: flex;
  flex-wrap: wrap;
  gap: 12px 18px;
  align-items: flex-end;
  padding: 14px 0 4px;
}
.short {
  width: 150px;
}
.told {
  padding: 10px 0 0;
}
.figure {
  display: flex;
  gap: 12px;
  align-items: baseline;
  margin: 0 0 4px;
  font-size: 26px;
}
.figure .mark {
  font-size: 13px;
}
.note {
  margin: 6px 0 0;
}
</style>
