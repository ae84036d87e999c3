<script setup lang="ts">
// The archive read again: by which method, how far it is, what would change, and taking that over.
import { computed, ref } from 'vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import type { ReanalysisView } from '../../api/types'
import { useAct } from '../../kit/act'
import { useAddress, useAddressNumber } from '../../kit/address'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import ReasonDialog from '../../kit/ReasonDialog.vue'
import TextField from '../../kit/TextField.vue'
import { counted, minutes, moment, ohms, percent, VERDICT_WORDS, watts } from '../../trade/format'
import { useLabMethods } from '../../trade/methods'
import VerdictMark from '../../trade/VerdictMark.vue'

const OWN = 0
const mayRead = useMay('plan')
const mayAdopt = useMay('sign')
const queries = useQueryClient()
const {
  data: told,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['reanalysis'],
  queryFn: () => answered(client.GET('/api/reanalysis')),
  refetchInterval: (query) => (query.state.data?.running ? 1000 : 30_000),
})
const { data: lab } = useLabMethods()
const picked = useAddressNumber('method')
const model = useAddress<string>('model', '')
const method = computed({ get: () => picked.value ?? OWN, set: (id) => (picked.value = id === OWN ? null : id) })
const choices = computed(() => [
  { value: OWN, label: 'Each campaign’s own method' },
  ...(lab.value?.versions ?? []).map((one) => ({
    value: one.id,
    label: one.approved_at ? one.title : `${one.title}, not approved`,
  })),
])
const renewed = (view: ReanalysisView) => queries.setQueryData(['reanalysis'], view)
const begin = useAct(
  () => answered(client.POST('/api/reanalysis', { body: { version_id: picked.value, model: model.value } })),
  { done: renewed },
)
const stop = useAct(() => answered(client.DELETE('/api/reanalysis')), { done: renewed })
const asking = ref(false)
const adopt = useAct((reason: string) => answered(client.POST('/api/reanalysis/adoption', { body: { reason } })), {
  takesLong: true,
  done: (view) => {
    renewed(view)
    asking.value = false
  },
})
const by = computed(() => told.value?.method || 'each campaign’s own method')
const of = computed(() => (told.value?.model ? ` of ${told.value.model}` : ''))
const outcome = computed(() => {
  const view = told.value
  if (!view?.complete) return ''
  if (!view.changed && !view.verdicts_changed) return 'All of them come to what stands.'
  const unsettled = view.ratings.length ? `, and ${counted(view.ratings.length, 'rating')} would be unsettled` : ''
  return `${counted(view.changed, 'attempt')} ${view.changed === 1 ? 'comes' : 'come'} to other figures, ${counted(view.verdicts_changed, 'verdict')} would be ${view.verdicts_changed === 1 ? 'another' : 'others'}${unsettled}.`
})

type Change = ReanalysisView['changes'][number]
type Verdict = ReanalysisView['verdicts'][number]
type Rating = ReanalysisView['ratings'][number]
const signed = (value: number) => `${value > 0 ? '+' : value < 0 ? '−' : ''}${Math.abs(value).toPrecision(2)}`
const then = (one: Rating) =>
  one.holds ? 'still holds' : one.bound_watts === null ? 'nothing is borne' : 'less than promised'
const CHANGES: Column<Change>[] = [
  { key: 'attempt', head: 'Attempt', text: (one) => String(one.attempt_id), value: (one) => one.attempt_id },
  { key: 'unit', head: 'Unit', look: 'mono', text: (one) => one.serial },
  {
    key: 'stands',
    head: 'Stands',
    unit: 'W',
    num: true,
    text: (one) => watts(one.was_watts),
    value: (one) => one.was_watts,
  },
  { key: 'now', head: 'Now', unit: 'W', num: true, text: (one) => watts(one.watts), value: (one) => one.watts },
  {
    key: 'by',
    head: 'Change',
    unit: '%',
    num: true,
    text: (one) => (one.percent === null ? '–' : signed(one.percent)),
    value: (one) => one.percent,
  },
  {
    key: 'stood',
    head: 'THD+N stands',
    unit: '%',
    num: true,
    text: (one) => percent(one.was_thd_n_percent),
    value: (one) => one.was_thd_n_percent,
  },
  {
    key: 'thd',
    head: 'THD+N now',
    unit: '%',
    num: true,
    text: (one) => percent(one.thd_n_percent),
    value: (one) => one.thd_n_percent,
  },
  { key: 'problem', head: 'Why it is none', text: (one) => one.problem },
]
const VERDICTS: Column<Verdict>[] = [
  { key: 'unit', head: 'Unit', look: 'mono', text: (one) => one.serial },
  {
    key: 'claim',
    head: 'Claim',
    text: (one) => `${watts(one.claimed_watts)} W, ${one.group}, ${ohms(one.load_ohms)}, ${one.document}`,
  },
  { key: 'was', head: 'Stands', text: (one) => VERDICT_WORDS[one.was] },
  { key: 'now', head: 'Would be', text: (one) => VERDICT_WORDS[one.now] },
]
const RATINGS: Column<Rating>[] = [
  { key: 'model', head: 'Model', text: (one) => one.model },
  {
    key: 'promised',
    head: 'Promised',
    unit: 'W',
    num: true,
    text: (one) => watts(one.promised_watts),
    value: (one) => one.promised_watts,
  },
  {
    key: 'was',
    head: 'Borne',
    unit: 'W',
    num: true,
    text: (one) => watts(one.was_watts),
    value: (one) => one.was_watts,
  },
  {
    key: 'now',
    head: 'Would be borne',
    unit: 'W',
    num: true,
    text: (one) => watts(one.bound_watts),
    value: (one) => one.bound_watts,
  },
  { key: 'holds', head: 'Then', text: (one) => then(one) },
]
</script>

<template>
  <PageFrame
    title="Waveforms read again"
    :trail="[{ name: 'Evidence', to: '/evidence' }, { name: 'Read again' }]"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template #head>
      <h1>Waveforms read again</h1>
      <p class="quiet">
        Every stored waveform, read by this version of the program and held against what stands. Nothing on record
        changes by it; what is adopted stands beside the attempts that it was read from.
      </p>
    </template>
    <form v-if="mayRead && !told?.running" class="ask" aria-label="What is read" @submit.prevent="begin.act()">
      <PickOne v-model="method" label="By" :choices="choices" />
      <TextField
        v-model="model"
        label="Of one model"
        :max="80"
        placeholder="all models"
        :problem="saysOf(begin.problem.value, 'model')"
      />
      <a-button html-type="submit" :type="told?.complete ? 'default' : 'primary'" :loading="begin.pending.value">
        {{ told?.asked_by && !told.complete ? 'Go on' : 'Read them' }}
      </a-button>
    </form>
    <ProblemNote v-if="begin.problem.value" :error="begin.problem.value" />
    <template v-if="told?.asked_by">
      <p v-if="told.running" class="going" role="status">
        <progress v-if="told.of" :value="told.done" :max="told.of" aria-label="Waveforms read" />
        <template v-if="!told.of">Looking which waveforms{{ of }} there are …</template>
        <template v-else>
          {{ told.done }} of {{ counted(told.of, 'waveform') }}{{ of }}, by {{ by
          }}{{ told.seconds_left === null ? '' : `, ${minutes(told.seconds_left / 60)} left` }}
        </template>
        <a-button v-if="mayRead" size="small" :loading="stop.pending.value" @click="stop.act()">Stop</a-button>
      </p>
      <p v-else class="quiet">
        {{ told.done }} of {{ counted(told.of, 'waveform') }}{{ of }} read by {{ by }}; asked for by {{ told.asked_by
        }}{{ told.asked_at ? `, ${moment(told.asked_at)}` : '' }}.
        <template v-if="!told.complete">It was ended; reading the same again goes on from there.</template>
      </p>
      <p v-if="told.problem" class="danger" role="alert">{{ told.problem }}</p>
      <template v-if="told.complete">
        <p class="outcome">{{ outcome }}</p>
        <p v-if="told.adopted.length">
          Adopted, as
          <template v-for="(id, at) in told.adopted" :key="id"
            >{{ at ? ', ' : '' }}<RouterLink :to="`/campaigns/${id}`">campaign {{ id }}</RouterLink></template
          >.
        </p>
        <p v-else-if="told.changed && told.not_adopted_because" class="quiet">{{ told.not_adopted_because }}</p>
        <a-button v-else-if="told.changed && mayAdopt" type="primary" @click="asking = true">
          Adopt what changed
        </a-button>
        <p v-else-if="told.changed" class="quiet">A reviewer may adopt it.</p>
        <section v-if="told.ratings.length" class="section">
          <header><h2>Ratings</h2></header>
          <DataTable
            :id="(one) => one.rating_id"
            name="Ratings that would be unsettled"
            sort-name="ratings"
            :rows="told.ratings"
            :columns="RATINGS"
            :to="(one) => `/ratings/${one.rating_id}`"
          >
            <template #holds="{ row }">
              <span :class="{ danger: !row.holds }">{{ then(row) }}</span>
            </template>
          </DataTable>
        </section>
        <section v-if="told.verdicts.length" class="section">
          <header>
            <h2>Verdicts</h2>
            <span v-if="told.verdicts_changed > told.verdicts.length" class="quiet">
              the first {{ told.verdicts.length }} of {{ told.verdicts_changed }}
            </span>
          </header>
          <DataTable
            :id="(one) => `${one.claim_id}/${one.unit_id}`"
            name="Verdicts that would be others"
            sort-name="verdicts"
            :rows="told.verdicts"
            :columns="VERDICTS"
            :to="(one) => `/units/${one.unit_id}`"
          >
            <template #was="{ row }"><VerdictMark :kind="row.was" /></template>
            <template #now="{ row }"><VerdictMark :kind="row.now" /></template>
          </DataTable>
        </section>
        <section v-if="told.changes.length" class="section">
          <header>
            <h2>Attempts</h2>
            <span class="quiet">
              the weakest channel’s watts; what loses most first{{
                told.changed > told.changes.length ? `, ${told.changes.length} of ${told.changed}` : ''
              }}
            </span>
          </header>
          <DataTable
            :id="(one) => one.attempt_id"
            name="Attempts that come to other figures"
            sort-name="attempts"
            :rows="told.changes"
            :columns="CHANGES"
            :to="(one) => `/attempts/${one.attempt_id}`"
          />
        </section>
      </template>
    </template>
    <p v-else class="quiet empty">
      Nothing has been read since the server started. A reading runs beside everything else; one that was stopped goes
      on where it was.
    </p>
    <ReasonDialog
      :open="asking"
      title="Adopt what changed"
      act="Adopt it"
      :hint="`New attempts say that they were read again, by ${by}; runs stand by them from then on, and what stood stays on record. Ratings that rest on them are looked at again.`"
      :pending="adopt.pending.value"
      :problem="adopt.problem.value"
      @done="adopt.act"
      @cancel="asking = false"
    />
  </PageFrame>
</template>

<style scoped>
.ask {
  display: grid;
  grid-template-columns: minmax(240px, 360px) minmax(180px, 240px) auto;
  gap: 10px 18px;
  align-items: end;
  justify-content: start;
  margin: 12px 0 18px;
}
.going {
  margin: 14px 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}
.going progress {
  width: 220px;
}
.outcome {
  font-size: 18px;
  margin: 10px 0;
}
p a {
  text-decoration: underline;
}
.empty {
  padding: 12px 0;
}
</style>
