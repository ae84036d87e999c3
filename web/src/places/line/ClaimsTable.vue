<script setup lang="ts">
// What is claimed of a model, with the verdict on each claim and why.
import type { ClaimView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { conditions, place } from '../../trade/format'
import VerdictMark from '../../trade/VerdictMark.vue'

const props = defineProps<{ claims: readonly ClaimView[]; model: string; mayWithdraw: boolean }>()
const emit = defineEmits<{ withdraw: [claim: ClaimView] }>()
const other = (id: number) => props.claims.find((c) => c.id === id)
const COLUMNS: Column<ClaimView>[] = [
  { key: 'claim', head: 'Claim', unit: 'W', text: (c) => `${c.watts}`, value: (c) => c.watts, num: true },
  { key: 'at', head: 'At', text: (c) => `${c.group}, ${place(c)}`, look: 'at' },
  { key: 'conditions', head: 'Conditions', text: (c) => conditions(c), look: 'conditions' },
  { key: 'document', head: 'Document', text: (c) => [c.document, c.stands_at].filter(Boolean).join(', ') },
  { key: 'verdict', head: 'Verdict', text: (c) => c.verdict?.kind ?? '' },
  { key: 'why', head: 'Why', text: (c) => c.verdict?.reason ?? '', look: 'why' },
  { key: 'act', head: '', text: () => '', unsorted: true },
]
</script>

<template>
  <DataTable :id="(c) => c.id" :name="`Claims of ${model}`" :rows="claims" :columns="COLUMNS" sort-name="claims">
    <template #at="{ row }">
      {{ row.group }}, {{ place(row) }}<br v-if="row.kind !== 'continuous'" />
      <span v-if="row.kind !== 'continuous'" class="quiet">“{{ row.kind }}”</span>
    </template>
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
    <template #why="{ row }">
      <RouterLink v-if="row.verdict?.attempt_id" :to="`/attempts/${row.verdict.attempt_id}`">{{
        row.verdict.reason
      }}</RouterLink>
      <template v-else>{{ row.verdict?.reason }}</template>
      <span v-if="row.verdict?.settle" class="quiet below">Would settle it: {{ row.verdict.settle }}</span>
      <span v-for="one in row.conflicts_with" :key="one" class="danger below">
        Against {{ other(one)?.watts }} W in {{ other(one)?.document }}
      </span>
    </template>
    <template #act="{ row }">
      <a-button v-if="mayWithdraw" size="small" type="text" @click="emit('withdraw', row)">Withdraw</a-button>
    </template>
  </DataTable>
</template>

<style scoped>
:deep(.num) {
  padding-right: 22px;
}
:deep(.at) {
  white-space: nowrap;
}
:deep(.conditions) {
  max-width: 190px;
}
:deep(.why) {
  max-width: 380px;
  font-size: 14px;
}
:deep(.why a) {
  color: var(--ink);
}
.below {
  display: block;
}
.wraps {
  white-space: normal;
  max-width: 130px;
}
</style>
