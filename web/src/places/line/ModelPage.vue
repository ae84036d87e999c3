<script setup lang="ts">
// A model: what it gives at each load, what is claimed where, and its units.
import { API } from '../../kit/base'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useAct } from '../../kit/act'
import ChangedNote from '../../trade/ChangedNote.vue'
import ReasonDialog from '../../kit/ReasonDialog.vue'
import { DOCUMENTS, useKept } from '../../api/kept'
import type { DocumentView } from '../../api/kept'
import { useMay } from '../../api/me'
import { useModel } from '../../api/queries'
import type { ClaimView, ModelEntry, VersionView } from '../../api/types'
import { BUNDLE, day, place } from '../../trade/format'
import PageFrame from '../../kit/PageFrame.vue'
import ReachChart from '../../trade/ReachChart.vue'
import ClaimForm from './ClaimForm.vue'
import ClaimsTable from './ClaimsTable.vue'
import ModelForm from './ModelForm.vue'
import StandInForm from './StandInForm.vue'
import VersionsDialog from '../../trade/VersionsDialog.vue'
import DocumentForm from '../dossier/DocumentForm.vue'
import LotsSection from '../dossier/LotsSection.vue'
import PapersPicture from '../dossier/PapersPicture.vue'
import SaidList from '../dossier/SaidList.vue'
import ModelFactsForm from './ModelFactsForm.vue'
import UnitsTable from './UnitsTable.vue'
import DecisionRule from '../../trade/DecisionRule.vue'

const props = defineProps<{ id: number }>()
const {
  data: model,
  error,
  isPending,
  refetch,
  hasNextPage,
  fetchNextPage,
  isFetchingNextPage,
} = useModel(() => props.id)
/** What it is, in a line. */
const facts = computed(() => {
  const one = model.value
  if (!one) return ''
  const supply = `${one.regulated ? 'regulated' : 'unregulated'} supply, ${one.supply_low_volts}–${one.supply_high_volts} V`
  return [one.description, `class ${one.topology}`, supply].filter(Boolean).join(' · ')
})
const adding = ref(false)
const describing = ref(false)
/** The document that is changed; null for a new one. */
const paper = ref<DocumentView | null | undefined>()
const { open: papers } = useKept(DOCUMENTS, () => props.id)
const choosing = ref(false)
const changing = ref(false)
const looking = ref(false)
const mayDescribe = useMay('describe')
const mayMeasure = useMay('measure')
const withdrawing = ref<ClaimView | null>(null)
const beside = computed(
  () =>
    `/side-by-side?kind=unit&id=${model.value?.units
      .slice(0, 6)
      .map((unit) => unit.id)
      .join(',')}`,
)
const standing = computed(() => model.value?.claims.filter((c) => !c.withdrawn) ?? [])
const withdrawn = computed(() => model.value?.claims.filter((c) => c.withdrawn) ?? [])

const {
  act: withdraw,
  pending,
  problem,
  forget,
} = useAct(
  (reason: string) =>
    answered(
      client.POST('/api/claims/{claim_id}/withdrawal', {
        params: { path: { claim_id: withdrawing.value!.id } },
        body: { reason },
      }),
    ),
  { done: () => (withdrawing.value = null) },
)
const path = () => ({ path: { model_id: props.id } })
const readVersions = () => answered(client.GET('/api/models/{model_id}/versions', { params: path() }))
const bringBack = (version: VersionView, seen: number) =>
  answered(
    client.PUT('/api/models/{model_id}/entry', {
      params: { ...path(), header: { 'If-Match': `${seen}` } },
      body: version.data as unknown as ModelEntry,
    }),
  )
function askToWithdraw(claim: ClaimView | null) {
  forget()
  withdrawing.value = claim
}
</script>

<template>
  <PageFrame
    :title="model?.name ?? ''"
    :trail="model ? [{ name: 'Line', to: '/line' }, { name: model.series_name }, { name: model.name }] : []"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  />
  <template v-if="model">
    <header class="named">
      <h1>{{ model.name }}</h1>
      <p class="quiet">{{ facts }}</p>
      <nav class="no-print" aria-label="This model">
        <a-button v-if="mayDescribe" size="small" type="link" @click="changing = true">Change</a-button>
        <a-button size="small" type="link" @click="looking = true">Versions</a-button>
        <RouterLink :to="`/history/model/${model.id}`">History</RouterLink>
        <a :href="`${API}/models/${model.id}/bundle`" :title="BUNDLE" download>Save as bundle</a>
      </nav>
    </header>

    <section class="section">
      <header>
        <h2>Reach</h2>
        <span class="quiet">weakest channel of the weakest unit; “bridged” per pair</span>
        <RouterLink class="no-print" :to="`/models/${model.id}/bears`">What its units bear</RouterLink>
        <span class="spacer" />
        <a-button v-if="mayDescribe" type="link" @click="choosing = true"
          >Simulated stand-in: {{ model.stand_in_described ? 'described' : model.stand_in || 'none' }}</a-button
        >
      </header>
      <ReachChart :reaches="model.reaches" named />
    </section>

    <section class="section">
      <header>
        <h2>Claims</h2>
        <span class="quiet">{{ standing.length }} published</span>
        <span class="spacer" />
        <DecisionRule />
        <a-button v-if="mayDescribe" type="link" @click="paper = null">Add a document</a-button>
        <a-button v-if="mayDescribe" @click="adding = true">Add a claim</a-button>
      </header>
      <p v-if="!standing.length" class="empty quiet">
        Nothing is claimed yet. Add what manual, carton and web page state, each with its conditions.
      </p>
      <template v-else>
        <PapersPicture :model="model" :papers="papers" :may-change="mayDescribe" @change="paper = $event" />
        <h3 class="each">Claim by claim</h3>
        <ClaimsTable :claims="standing" :model="model.name" :may-withdraw="mayDescribe" @withdraw="askToWithdraw" />
      </template>
      <details v-if="withdrawn.length" class="withdrawn">
        <summary>{{ withdrawn.length }} withdrawn</summary>
        <ul>
          <li v-for="c in withdrawn" :key="c.id">
            {{ c.watts }} W at {{ c.group }}, {{ place(c) }} ({{ c.document }}) – {{ c.withdrawn?.reason }}
            <span class="quiet">{{ c.withdrawn?.by }}, {{ day(c.withdrawn!.at) }}</span>
          </li>
        </ul>
      </details>
    </section>

    <section class="section">
      <header>
        <h2>Units</h2>
        <span class="quiet">{{ model.units_in_all }}</span>
        <span class="spacer" />
        <RouterLink v-if="model.units.length > 1" :to="beside">Side by side</RouterLink>
        <RouterLink v-if="mayMeasure" v-slot="{ navigate }" :to="`/models/${model.id}/receive`" custom>
          <a-button @click="navigate">Receive a unit</a-button>
        </RouterLink>
      </header>
      <p v-if="!model.units.length" class="empty quiet">No unit is here yet. Receive one to plan a campaign on it.</p>
      <UnitsTable
        v-else
        :model="model"
        :more="{ has: !!hasNextPage, loading: isFetchingNextPage }"
        @more="fetchNextPage()"
      />
    </section>

    <LotsSection :model="model" :may-change="mayDescribe" />

    <section class="section">
      <header>
        <h2>About it</h2>
        <span class="spacer" />
        <a-button v-if="mayDescribe" type="link" @click="describing = true">Change</a-button>
      </header>
      <SaidList :said="model.said" />
    </section>

    <ModelForm
      v-if="changing"
      open
      :series="{ id: 0, name: model.series_name }"
      :model="model.id"
      @close="changing = false"
    />
    <VersionsDialog
      v-if="looking"
      :subject="`model/${model.id}`"
      :name="model.name"
      :read="readVersions"
      :bring-back="mayDescribe ? bringBack : undefined"
      @close="looking = false"
    />
    <StandInForm :open="choosing" :model="model" @close="choosing = false" />
    <DocumentForm v-if="paper !== undefined" :model="model.id" :kept="paper" @close="paper = undefined" />
    <ModelFactsForm v-if="describing" :model="model" @close="describing = false" />
    <ClaimForm :open="adding" :model="model" @close="adding = false" />
    <ReasonDialog
      :open="withdrawing !== null"
      title="Withdraw this claim: why is it no longer made?"
      act="Withdraw the claim"
      danger
      :hint="
        withdrawing
          ? `${withdrawing.watts} W at ${withdrawing.group}, ${place(withdrawing)} (${withdrawing.document}). It stays on record as withdrawn.`
          : ''
      "
      :pending="pending"
      :problem="problem"
      @done="withdraw"
      @cancel="askToWithdraw(null)"
    >
      <ChangedNote :subject="`model/${id}`" :open="withdrawing !== null" />
    </ReasonDialog>
  </template>
</template>

<style scoped>
.empty {
  padding: 14px 0;
}
.each {
  margin: 22px 0 2px;
  font-size: 15px;
}
.withdrawn {
  margin-top: 10px;
  font-size: 14px;
}
</style>
