<script setup lang="ts">
// A unit: where it came from, what it gives, its campaigns, and the way to the bench.
import { API } from '../../kit/base'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import { useCampaigns, useUnit } from '../../api/queries'
import type { CampaignRow, UnitEntry, VerdictView, VersionView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'
import { BUNDLE, day, moment, place } from '../../trade/format'
import HistoryList from '../../trade/HistoryList.vue'
import PageFrame from '../../kit/PageFrame.vue'
import ReachChart from '../../trade/ReachChart.vue'
import { unitTrail } from '../../trade/trails'
import SettleLink from '../../trade/SettleLink.vue'
import VerdictMark from '../../trade/VerdictMark.vue'
import ComparedSection from './ComparedSection.vue'
import UnitForm from './UnitForm.vue'
import VersionsDialog from '../../trade/VersionsDialog.vue'
import VoltageSection from './VoltageSection.vue'
import DecisionRule from '../../trade/DecisionRule.vue'

const props = defineProps<{ id: number }>()
const changing = ref(false)
const looking = ref(false)
const path = () => ({ path: { unit_id: props.id } })
const readVersions = () => answered(client.GET('/api/units/{unit_id}/versions', { params: path() }))
const bringBack = (version: VersionView, seen: number) =>
  answered(
    client.PUT('/api/units/{unit_id}/entry', {
      params: { ...path(), header: { 'If-Match': `${seen}` } },
      body: version.data as unknown as UnitEntry,
    }),
  )
const mayPlan = useMay('plan')
const mayMeasure = useMay('measure')
const { data, error, isPending, refetch } = useUnit(() => props.id)
const { items: campaigns, hasNextPage, fetchNextPage, isFetchingNextPage } = useCampaigns('all', () => props.id)

const CAMPAIGNS: Column<CampaignRow>[] = [
  { key: 'id', head: 'Campaign', text: (c) => `Campaign ${c.id}`, value: (c) => c.id },
  {
    key: 'supply',
    head: 'Supply',
    unit: 'V',
    text: (c) => figure(c.supply_volts, 1),
    value: (c) => c.supply_volts,
    num: true,
  },
  { key: 'done', head: 'Runs', text: (c) => (c.running ? 'running' : `${c.runs_done} of ${c.runs}`), look: 'nowrap' },
  { key: 'by', head: 'Planned by', text: (c) => c.created_by },
  { key: 'at', head: 'On', text: (c) => moment(c.created_at), value: (c) => c.created_at, look: 'nowrap' },
]
/** Where it came from, in a line; what nobody entered is left out. */
const facts = computed(() => {
  if (!data.value) return ''
  const { lot, revision, origin, received_at, facts: more } = data.value.unit
  const came = `received ${day(received_at)}`
  const words = [
    data.value.model.name,
    lot && `lot ${lot}`,
    revision && `revision ${revision}`,
    [more.came, origin, came].filter(Boolean).join(', '),
    more.state,
    more.whereabouts,
  ]
  return words.filter(Boolean).join(' · ')
})
const claim = (id: number) => data.value?.model.claims.find((c) => c.id === id)
const claimedAt = (v: VerdictView) => [claim(v.claim_id)].map((c) => (c ? `${c.group}, ${place(c)}` : ''))[0]!
const VERDICTS: Column<VerdictView>[] = [
  { key: 'claimed', head: 'Claimed', unit: 'W', text: (v) => `${claim(v.claim_id)?.watts ?? ''}`, num: true },
  { key: 'at', head: 'Where', text: claimedAt, look: 'nowrap' },
  { key: 'verdict', head: 'Verdict', text: (v) => v.reason },
]
</script>

<template>
  <PageFrame
    :title="data?.unit.serial ?? ''"
    :trail="data ? unitTrail(data) : []"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  />
  <template v-if="data">
    <header class="head">
      <div class="named">
        <h1 class="mono">{{ data.unit.serial }}</h1>
        <p class="quiet">{{ facts }}</p>
        <nav class="no-print" aria-label="This unit">
          <a-button v-if="mayMeasure" size="small" type="link" @click="changing = true">Change</a-button>
          <a-button size="small" type="link" @click="looking = true">Versions</a-button>
          <RouterLink :to="`/units/${data.unit.id}/file`">How it came, inside, listening</RouterLink>
          <a :href="`${API}/units/${data.unit.id}/bundle`" :title="BUNDLE" download>Save as bundle</a>
        </nav>
      </div>
      <div class="acts">
        <RouterLink v-if="mayMeasure" v-slot="{ navigate }" :to="`/units/${data.unit.id}/typed`" custom>
          <a-button @click="navigate">A reading by hand</a-button>
        </RouterLink>
        <RouterLink v-if="mayMeasure" v-slot="{ navigate }" :to="`/units/${data.unit.id}/sheet`" custom>
          <a-button @click="navigate">A sheet of them</a-button>
        </RouterLink>
        <RouterLink v-if="mayMeasure" v-slot="{ navigate }" :to="`/units/${data.unit.id}/recorded`" custom>
          <a-button @click="navigate">A recording</a-button>
        </RouterLink>
        <RouterLink v-if="mayPlan" v-slot="{ navigate }" :to="`/units/${data.unit.id}/plan`" custom>
          <a-button type="primary" @click="navigate">Plan a campaign</a-button>
        </RouterLink>
      </div>
    </header>

    <p v-for="doubt in data.attention" :key="doubt" class="caution" role="note">{{ doubt }}</p>
    <section class="section">
      <header>
        <h2>Reach of this unit</h2>
        <span class="quiet">weakest channel, latest campaign</span>
      </header>
      <ReachChart :reaches="data.unit.reaches" />
    </section>

    <VoltageSection :fits="data.voltage" />
    <ComparedSection v-if="data.comparisons.length" :comparisons="data.comparisons" />

    <div class="two">
      <section class="section">
        <header>
          <h2>Claims as this unit backs them</h2>
          <DecisionRule />
        </header>
        <p v-if="!data.unit.verdicts.length" class="quiet empty">
          Nothing is claimed of this model yet. Its page takes what manual, carton and web page state.
        </p>
        <div v-else class="scrolls">
          <DataTable :id="(v) => v.claim_id" name="Verdicts" :rows="data.unit.verdicts" :columns="VERDICTS" fixed plain>
            <template #verdict="{ row }">
              <VerdictMark
                :kind="row.kind"
                :outcome="row.outcome"
                :doubted="!!row.doubts.length"
                :simulated="row.simulated"
                class="wraps"
              />
              <span class="reason quiet">{{ row.reason }}</span>
              <SettleLink :verdict="row" :unit-id="data.unit.id" />
            </template>
          </DataTable>
        </div>
      </section>
      <section class="section">
        <header><h2>Campaigns</h2></header>
        <p v-if="!data.unit.campaigns.length" class="quiet empty">
          This unit has not been tested. Plan a campaign: every mode at every load it is rated for, in the order that
          rewires least.
        </p>
        <DataTable
          v-else
          :id="(c) => c.id"
          :name="`Campaigns of ${data.unit.serial}`"
          :rows="campaigns"
          :columns="CAMPAIGNS"
          :to="(c) => (c.runs_done < c.runs ? `/campaigns/${c.id}/live` : `/campaigns/${c.id}`)"
          sort-name="campaigns"
          :more="{ has: !!hasNextPage, loading: isFetchingNextPage }"
          more-words="Show older ones"
          @more="fetchNextPage()"
        />
        <template v-if="data.history.length">
          <header class="history"><h2>History</h2></header>
          <HistoryList :entries="data.history" :most="8" />
          <RouterLink class="no-print" :to="`/history/unit/${data.unit.id}`">All of it</RouterLink>
        </template>
      </section>
    </div>
    <UnitForm v-if="changing" open :model="data.model" :unit="data.unit.id" @close="changing = false" />
    <VersionsDialog
      v-if="looking"
      :subject="`unit/${data.unit.id}`"
      :name="data.unit.serial"
      :read="readVersions"
      :bring-back="mayMeasure ? bringBack : undefined"
      @close="looking = false"
    />
  </template>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: flex-end;
  gap: 10px 24px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(460px, 100%), 1fr));
  gap: 40px;
}
.wraps {
  white-space: normal;
}
.reason {
  display: block;
  font-size: 14px;
}
.empty {
  padding: 14px 0;
}
.caution {
  margin-top: 12px;
}
.history {
  margin-top: 24px;
}
</style>
