<script setup lang="ts">
// The reading of an attempt, channel by channel, with what another instrument read and the verdicts that rest on it.
import { computed } from 'vue'
import type { AttemptPage, AttemptView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'
import DecisionRule from '../../trade/DecisionRule.vue'
import { U_HOLDS, channelName, percent, watts } from '../../trade/format'
import { powerColumns } from '../../trade/powerColumns'
import VerdictMark from '../../trade/VerdictMark.vue'
import SecondInstrument from './SecondInstrument.vue'

type Reading = AttemptView['readings'][number]
const props = defineProps<{ page: AttemptPage }>()
const attempt = computed(() => props.page.attempt)
/** Verdicts that rest on this attempt; a repeat of the run takes them along. */
const verdicts = computed(() => props.page.run.verdicts.filter((v) => v.attempt_id === attempt.value.id))
const columns = computed<Column<Reading>[]>(() => [
  {
    key: 'channel',
    head: props.page.run.bridged ? 'Pair' : 'Channel',
    text: (c) => channelName(props.page.run, c.channel),
    value: (c) => c.channel,
  },
  ...powerColumns<Reading>('Power', (c) => ({ watts: c.watts, u: c.expanded_watts })),
  {
    key: 'volts',
    head: 'Output',
    unit: 'V rms',
    num: true,
    text: (c) => figure(c.volts_rms, 3),
    value: (c) => c.volts_rms,
  },
  {
    key: 'thd',
    head: 'THD+N',
    unit: '%',
    num: true,
    text: (c) => percent(c.thd_n_percent),
    value: (c) => c.thd_n_percent,
  },
  {
    key: 'load',
    head: 'Load',
    unit: 'Ω',
    num: true,
    text: (c) => figure(c.load_measured, 3),
    value: (c) => c.load_measured,
  },
  {
    key: 'off',
    head: 'Load off',
    unit: '%',
    num: true,
    text: (c) => figure(c.load_off_percent, 1),
    value: (c) => c.load_off_percent,
  },
  {
    key: 'nominal',
    head: 'At nominal, estimated',
    unit: 'W',
    num: true,
    text: (c) => watts(c.nominal_watts, c.expanded_watts),
    value: (c) => c.nominal_watts,
  },
])
</script>

<template>
  <section class="panel">
    <header>
      <h2>Reading</h2>
      <span class="quiet">{{ U_HOLDS }}</span>
    </header>
    <DataTable
      v-if="attempt.readings.length"
      :id="(c) => c.channel"
      name="Reading by channel"
      :rows="attempt.readings"
      :columns="columns"
      sort-name="channels"
    />
    <p v-else class="quiet">This attempt ended before there was a reading.</p>
    <SecondInstrument v-if="attempt.readings.length" :page="page" />
    <DecisionRule v-if="verdicts.length" :in-force="page.rule" />
    <ul class="verdicts">
      <li v-for="v in verdicts" :key="v.claim_id">
        <VerdictMark :kind="v.kind" :outcome="v.outcome" :doubted="!!v.doubts.length" :simulated="v.simulated" /> –
        {{ v.reason }}
      </li>
    </ul>
  </section>
</template>

<style scoped>
.verdicts {
  list-style: none;
  padding: 0;
  margin: 8px 0 0;
  font-size: 14px;
}
</style>
