<script setup lang="ts">
// The campaign sheet: loads by modes as reach bars and as a table; one A4 page in print; out as CSV and JSON.
import { API } from '../../kit/base'
import { computed } from 'vue'
import { useCampaign } from '../../api/queries'
import type { CampaignView } from '../../api/types'
import { useRule } from '../../api/rule'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import DecisionRule from '../../trade/DecisionRule.vue'
import { figure } from '../../kit/quantity'
import { BUNDLE, MODE_WORDS, POLICY_WORDS, conditions, day, place } from '../../trade/format'
import PageFrame from '../../kit/PageFrame.vue'
import ReachChart from '../../trade/ReachChart.vue'
import { campaignTrail } from '../../trade/trails'
import VerdictMark from '../../trade/VerdictMark.vue'
import SheetTable from './SheetTable.vue'

const props = defineProps<{ id: number }>()
const { data: campaign, error, isPending, refetch } = useCampaign(() => props.id)
/** No amplifier gave it: it stands on the sheet, on paper too. */
/** What the first of its runs was read from, where the campaign is of waveforms that were read once more. */
const readAgain = computed(() => campaign.value?.runs.find((r) => r.chosen?.read_again)?.chosen?.read_again)
const simulated = computed(() => campaign.value?.runs.some((r) => r.chosen?.simulated) ?? false)
const left = computed(() => campaign.value?.runs.filter((r) => r.state !== 'done').length ?? 0)
const claims = computed(() => campaign.value?.claims.filter((c) => !c.withdrawn) ?? [])
type Claimed = CampaignView['claims'][number]
const CLAIMS: Column<Claimed>[] = [
  { key: 'watts', head: 'Claimed', unit: 'W', text: (c) => `${c.watts}`, num: true },
  { key: 'at', head: 'Where', text: (c) => `${c.group}, ${place(c)}`, look: 'nowrap' },
  {
    key: 'document',
    head: 'Document and conditions',
    text: (c) => `${c.document} · ${c.kind === 'continuous' ? conditions(c) : `“${c.kind}” figure`}`,
    look: 'quiet',
  },
  { key: 'verdict', head: 'Verdict', text: (c) => c.verdict?.kind ?? '' },
  { key: 'reason', head: 'Why', text: (c) => c.verdict?.reason ?? '', look: 'why' },
]
const modes = computed(() => campaign.value?.modes.map((m) => MODE_WORDS[m].toLowerCase()).join(', ') ?? '')
const skipped = computed(() => [
  ...new Set(
    campaign.value?.runs.flatMap((r) => (r.chosen?.circumstances ?? []).map((s) => `${place(r)} ${r.mode}: ${s}`)),
  ),
])
const tested = computed(
  () =>
    campaign.value?.reaches.filter((r) => r.certified_watts !== null || r.burst_watts !== null || r.notches.length) ??
    [],
)
/**
 * What makes the sheet fit one A4 page: its width in any case, and its height where there are very many runs.
 * Heights are those of this page's own rows, in CSS pixels.
 */
const PAGE = { high: 1020, narrow: 0.57 }
const printZoom = computed(() => {
  const c = campaign.value
  const height = 420 + 28 * (c?.runs.length ?? 0) + 46 * claims.value.length + 34 * tested.value.length
  return Math.min(PAGE.narrow, PAGE.high / height).toFixed(3)
})
const rule = useRule()
const print = () => window.print()
/** What is saved is judged by the rule that the page is. */
const asked = computed(() => (rule.value === 'as_stored' ? '' : `?rule=${rule.value}`))
</script>

<template>
  <PageFrame
    :title="campaign ? `Campaign ${campaign.id}, ${campaign.unit_serial}` : ''"
    :trail="campaign ? campaignTrail(campaign) : []"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  />
  <div v-if="campaign" class="page">
    <header class="head">
      <div>
        <h1>
          Campaign sheet <span class="mono quiet">{{ campaign.unit_serial }}</span>
          <span v-if="simulated" class="mark" title="From a simulated bench: no amplifier gave this.">simulated</span>
        </h1>
        <p class="quiet">
          {{ campaign.model_name }} · {{ modes }} · supply: {{ POLICY_WORDS[campaign.policy] }},
          {{ figure(campaign.supply_volts, 1) }} V · THD+N {{ campaign.thd_n_limit_percent }} % certified,
          {{ campaign.uncertified_limit_percent }} % uncertified · {{ campaign.bench
          }}{{ simulated ? ', simulated' : '' }} · {{ campaign.created_by }}, {{ day(campaign.created_at)
          }}{{ readAgain ? `; waveforms read again: ${readAgain}` : '' }}
        </p>
      </div>
      <div class="actions no-print">
        <span class="quiet" aria-hidden="true">Save as</span>
        <a class="out" :href="`${API}/campaigns/${campaign.id}/sheet.csv${asked}`" aria-label="Save as CSV" download
          >CSV</a
        >
        <a
          class="out"
          :href="`${API}/campaigns/${campaign.id}${asked}`"
          :download="`${campaign.unit_serial}-campaign-${campaign.id}.json`"
          aria-label="Save as JSON"
          >JSON</a
        >
        <a
          class="out"
          :href="`${API}/campaigns/${campaign.id}/bundle`"
          aria-label="Save as bundle"
          :title="BUNDLE"
          download
          >bundle</a
        >
        <a-button @click="print">Print</a-button>
        <RouterLink v-slot="{ navigate }" :to="`/campaigns/${campaign.id}/live`" custom>
          <a-button :type="left && !campaign.came_from ? 'primary' : 'default'" @click="navigate">{{
            campaign.came_from ? 'Look at the runs' : left ? `Go on: ${left} runs left` : 'Open the live bench'
          }}</a-button>
        </RouterLink>
      </div>
    </header>

    <section class="section">
      <header><h2>Reach of this unit</h2></header>
      <ReachChart :reaches="tested" />
    </section>

    <section class="section">
      <header>
        <h2>Runs</h2>
        <span class="quiet"
          >watts per channel (per pair where bridged); amps with the clamp's zero taken off, none in bursts</span
        >
      </header>
      <SheetTable :campaign="campaign" />
      <p v-for="s in skipped" :key="s" class="skipped">{{ s }}</p>
    </section>

    <section class="section">
      <header>
        <h2>Verdicts by claim</h2>
        <DecisionRule :in-force="campaign.rule" />
      </header>
      <DataTable :id="(c) => c.id" name="Verdicts by claim" :rows="claims" :columns="CLAIMS" fixed plain>
        <template #verdict="{ row }">
          <VerdictMark
            v-if="row.verdict"
            :kind="row.verdict.kind"
            :outcome="row.verdict.outcome"
            :doubted="!!row.verdict.doubts.length"
            :simulated="row.verdict.simulated"
            class="wraps"
          />
        </template>
      </DataTable>
    </section>
    <p class="chain quiet" title="A chain that was cut short later does not have this entry: rulvek verify">
      Audit chain as of entry {{ campaign.chain_entry }}: <span class="mono">{{ campaign.chain_head }}</span>
    </p>
  </div>
</template>

<style scoped>
.mark {
  margin-left: 8px;
  padding: 0 5px;
  border: 1px solid var(--doubt);
  color: var(--doubt);
  font-size: 13px;
  font-weight: 400;
}
.head {
  flex-wrap: wrap;
  display: flex;
  justify-content: space-between;
  gap: 24px;
  align-items: flex-end;
}
.head > :first-child {
  flex: 1 1 400px;
}
.actions {
  flex: none;
  max-width: 100%;
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 8px 14px;
  align-items: center;
  white-space: nowrap;
}
h1 .mono {
  font-weight: 400;
  font-size: 18px;
  margin-left: 6px;
}
.chain {
  margin-top: 22px;
  font-size: 12px;
  overflow-wrap: anywhere;
}
.skipped {
  font-size: 13px;
  color: var(--doubt);
  padding-top: 4px;
}
.wraps {
  white-space: normal;
}
:deep(.why) {
  font-size: 14px;
  max-width: 420px;
}
@media print {
  /* One A4 page: small type, fine rules, no controls. */
  .page {
    zoom: v-bind(printZoom);
  }
  .section {
    margin-top: 14px;
    break-inside: avoid;
  }
}
</style>
