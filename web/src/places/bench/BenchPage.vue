<script setup lang="ts">
// The queue: what is on the bench, what waits, what is done.
import { computed } from 'vue'
import { useBenches, useCampaigns } from '../../api/queries'
import type { CampaignRow } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { figure } from '../../kit/quantity'
import { POLICY_WORDS, minutes, moment } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'

const waiting = useCampaigns('open')
const { items: open, error, data, isPending, refetch } = waiting
const past = useCampaigns('done')
const { items: done } = past
const { data: benches } = useBenches()

const FIRST: Column<CampaignRow>[] = [
  { key: 'id', head: 'Campaign', text: (c) => `Campaign ${c.id}`, value: (c) => c.id },
  { key: 'model', head: 'Model', text: (c) => c.model_name },
  { key: 'unit', head: 'Unit', look: 'mono', text: (c) => c.unit_serial },
]
const SUPPLY: Column<CampaignRow> = {
  key: 'supply',
  head: 'Supply',
  unit: 'V',
  num: true,
  text: (c) => figure(c.supply_volts, 1),
  value: (c) => c.supply_volts,
}
const MODES: Column<CampaignRow> = { key: 'modes', head: 'Modes', text: (c) => c.modes.join(', ') }
const BY: Column<CampaignRow> = {
  key: 'by',
  head: 'Planned',
  look: 'quiet',
  text: (c) => `${c.created_by}, ${moment(c.created_at)}`,
  value: (c) => c.created_at,
}
const OPEN = computed<Column<CampaignRow>[]>(() => [
  ...FIRST,
  ...((benches.value?.length ?? 0) > 1 ? [{ key: 'bench', head: 'Bench', text: (c: CampaignRow) => c.bench }] : []),
  SUPPLY,
  MODES,
  { key: 'runs', head: 'Runs', text: (c) => (c.running ? 'running' : `${c.runs_done} of ${c.runs} runs`) },
  { key: 'left', head: 'Left', num: true, text: (c) => minutes(c.minutes_left), value: (c) => c.minutes_left },
  BY,
])
const DONE: Column<CampaignRow>[] = [
  ...FIRST,
  SUPPLY,
  MODES,
  { key: 'runs', head: 'Runs', num: true, text: (c) => String(c.runs), value: (c) => c.runs },
  { key: 'policy', head: 'Supplied', text: (c) => POLICY_WORDS[c.policy] },
  BY,
]
const more = (of: typeof waiting) => ({ has: of.hasNextPage.value, loading: of.isFetchingNextPage.value })
</script>

<template>
  <PageFrame title="Bench" :pending="isPending" :error="error" @retry="refetch">
    <template #head>
      <h1>Bench</h1>
      <template v-for="bench in benches" :key="bench.id">
        <p v-if="bench.state === 'running'" class="now">
          {{ bench.name }} is running <strong>{{ bench.model_name }}</strong>
          <span class="mono">{{ bench.unit_serial }}</span>
          <template v-if="bench.supply_volts">
            at <span class="mono">{{ figure(bench.supply_volts, 2) }} V</span></template
          >, started by {{ bench.person }}{{ bench.elsewhere ? ' at another server' : '' }}.
          <RouterLink :to="`/campaigns/${bench.campaign_id}/live`">Watch it live</RouterLink>
          <span v-if="bench.problem" class="danger">{{ bench.problem }}</span>
        </p>
        <p v-else class="now quiet">
          {{ bench.name }} is
          {{
            bench.state === 'idle'
              ? 'idle'
              : bench.state === 'testing'
                ? 'being looked at'
                : `being prepared for ${bench.unit_serial}`
          }}{{ bench.holder ? `; ${bench.holder} holds it` : '' }}.
        </p>
      </template>
    </template>
    <section class="section">
      <header>
        <h2>To do</h2>
        <span class="quiet">campaigns with runs left</span>
        <span class="ways">
          <RouterLink v-if="open.length" to="/bench/today">Today, in order</RouterLink>
          <RouterLink to="/practice">Practice</RouterLink>
        </span>
      </header>
      <p v-if="data && !open.length" class="quiet empty">
        Nothing waits. Choose a unit on the <RouterLink to="/line">line</RouterLink> and plan a campaign for it.
      </p>
      <DataTable
        v-else
        :id="(c) => c.id"
        name="Campaigns to do"
        :rows="open"
        :columns="OPEN"
        :to="(c) => `/campaigns/${c.id}/live`"
        :more="more(waiting)"
        more-words="Show older ones"
        @more="waiting.fetchNextPage()"
      >
        <template #modes="{ row: c }"
          ><ModeMark v-for="m in c.modes" :key="m" :mode="m" named class="mode-of"
        /></template>
      </DataTable>
    </section>
    <section class="section">
      <header><h2>Done</h2></header>
      <p v-if="!done.length" class="quiet empty">No campaign is done yet.</p>
      <DataTable
        v-else
        :id="(c) => c.id"
        name="Campaigns done"
        :rows="done"
        :columns="DONE"
        :to="(c) => `/campaigns/${c.id}`"
        :more="more(past)"
        more-words="Show older ones"
        sort-name="done"
        @more="past.fetchNextPage()"
      >
        <template #modes="{ row: c }"
          ><ModeMark v-for="m in c.modes" :key="m" :mode="m" named class="mode-of"
        /></template>
      </DataTable>
    </section>
  </PageFrame>
</template>

<style scoped>
.now {
  margin-top: 6px;
}
.mode-of {
  margin-right: 5px;
}
.ways {
  display: flex;
  gap: 18px;
  margin-left: auto;
}
.empty {
  padding: 14px 0;
}
</style>
