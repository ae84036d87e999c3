<script setup lang="ts">
// Which figure a model's production bears by its units on record: at some conditions, with some confidence.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import { useModel } from '../../api/queries'
import type { PopulationView } from '../../api/types'
import { useAddress, useAddressNumber } from '../../kit/address'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import { counted, place } from '../../trade/format'
import ProbabilityPlot from './ProbabilityPlot.vue'
import SampleStrip from './SampleStrip.vue'

type Row = PopulationView['rows'][number]
const props = defineProps<{ id: number }>()
const { data: model, error, isPending, refetch } = useModel(() => props.id)
const at = useAddress<string>('at', '')
const kind = useAddress<'continuous' | 'burst'>('kind', 'continuous', ['continuous', 'burst'])
const share = useAddress<string>('share', '0.95', ['0.9', '0.95', '0.99'])
const confidence = useAddress<string>('confidence', '0.95', ['0.9', '0.95', '0.99'])
const wanted = useAddressNumber('print')
const volts = useAddressNumber('volts')
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
    band_low_hz: null,
    band_high_hz: null,
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
const percent = (part: number) => `${figure(100 * part, 0)} %`
const METHOD_WORDS: Record<NonNullable<PopulationView['bound']>['method'], string> = {
  normal: 'taken as normal',
  lots: 'lots taken as they differ',
  'distribution-free': 'whatever their distribution',
  censored: 'some at least so much',
}
const COLUMNS: Column<Row>[] = [
  { key: 'serial', head: 'Unit', text: (row) => row.serial, look: 'mono' },
  { key: 'lot', head: 'Lot', text: (row) => row.lot },
  { key: 'revision', head: 'Revision', text: (row) => row.revision },
  {
    key: 'watts',
    head: 'Weakest channel',
    unit: 'W',
    text: (row) => (row.watts === null ? '–' : `${row.censored ? '≥ ' : ''}${figure(row.watts, 1)}`),
    value: (row) => row.watts,
    num: true,
  },
  { key: 'left_out', head: 'Counts', text: (row) => row.left_out || (row.simulated ? 'yes, simulated' : 'yes') },
  { key: 'act', head: 'Try without', text: () => '', unsorted: true },
]
</script>

<template>
  <PageFrame
    :title="model ? `What its units bear, ${model.name}` : ''"
    :trail="
      model
        ? [
            { name: 'Line', to: '/line' },
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
            <strong v-if="bound.proposal_watts !== null" class="mono">{{ bound.proposal_watts }} W</strong>
            <strong v-else>No figure to propose</strong>
            <span v-if="found.simulated" class="mark" title="From a simulated bench: no amplifier gave this."
              >simulated</span
            >
          </p>
          <p v-if="bound.bound_watts !== null" class="quiet">
            {{ percent(found.share) }} of all units give {{ figure(bound.bound_watts, 1) }} W or more, at
            {{ percent(found.confidence) }} confidence; less {{ figure(found.taken_off_watts, 2) }} W for what all
            readings share, down to a multiple of {{ found.step_watts }} W.
          </p>
          <p class="quiet">
            {{ counted(bound.n, 'unit') }} of {{ counted(bound.lots, 'lot') }}, {{ METHOD_WORDS[bound.method]
            }}<template v-if="bound.mean !== null && bound.spread !== null"
              >; mean {{ figure(bound.mean, 1) }} W, spread {{ figure(bound.spread, 2) }} W</template
            ><template v-if="bound.between !== null && bound.within !== null"
              >, between lots {{ figure(bound.between, 2) }} W, within {{ figure(bound.within, 2) }} W</template
            ><template v-if="bound.k !== null">; k = {{ figure(bound.k, 3) }}</template>
          </p>
          <p v-for="note in bound.notes" :key="note" class="note">{{ note }}</p>
          <p v-if="bound.more_units" class="note">
            {{ bound.more_units }} more units would bear {{ found.wanted_watts }} W, if they are as these.
          </p>
          <p v-else-if="bound.more_units === 0" class="note">These units bear {{ found.wanted_watts }} W.</p>
        </div>
        <p v-else class="told">No unit has a figure at these conditions: run one there.</p>
        <SampleStrip v-if="drawn" :found="found" />
        <ProbabilityPlot v-if="plotted" :found="found" />
        <table v-if="bound?.chances.length" class="figures chances">
          <caption>
            Chance that so many units bear
            {{
              found.wanted_watts
            }}
            W, if production is as these say
          </caption>
          <tbody>
            <tr>
              <th scope="row">Units</th>
              <td v-for="one in bound.chances" :key="one.units" class="num">{{ one.units }}</td>
            </tr>
            <tr>
              <th scope="row">Chance</th>
              <td v-for="one in bound.chances" :key="one.units" class="num">{{ percent(one.chance) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section class="section">
        <header>
          <h2>Units</h2>
          <span class="quiet">one figure each; who does not count says why</span>
        </header>
        <DataTable
          :id="(row) => row.unit_id"
          name="Units of the sample"
          :rows="found.rows"
          :columns="COLUMNS"
          :to="(row) => (row.attempt_id ? `/attempts/${row.attempt_id}` : `/units/${row.unit_id}`)"
          :marked="(row) => (row.left_out ? 'out' : undefined)"
        >
          <template #act="{ row }">
            <a-button
              v-if="row.watts !== null && (!row.left_out || without.includes(row.unit_id))"
              class="no-print"
              size="small"
              @click="leaveOut(row.unit_id)"
              >{{ without.includes(row.unit_id) ? 'Take back' : 'Leave out' }}</a-button
            >
          </template>
        </DataTable>
      </section>
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
.chances {
  margin-top: 16px;
}
.chances caption {
  text-align: left;
  padding-bottom: 6px;
  color: var(--ink-2);
}
:deep(.out td) {
  color: var(--ink-2);
}
</style>
