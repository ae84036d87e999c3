<script setup lang="ts">
// What a table of earlier results gives, reading by reading, before it is kept.
import { computed } from 'vue'
import type { EarlierView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import FindingsList from '../../trade/FindingsList.vue'
import { MODE_WORDS, place } from '../../trade/format'
import { powerColumns } from '../../trade/powerColumns'

type Reading = EarlierView['readings'][number]
const props = defineProps<{ readings: readonly Reading[] }>()
const MOST = 60
const first = computed(() => props.readings.slice(0, MOST))
const COLUMNS: Column<Reading>[] = [
  { key: 'row', head: 'Row', num: true, text: (r) => String(r.row), value: (r) => r.row },
  { key: 'unit', head: 'Unit', look: 'mono', text: (r) => r.serial },
  { key: 'run', head: 'Run', text: (r) => `${MODE_WORDS[r.mode]}, ${place(r)}` },
  ...powerColumns<Reading>('Weakest', (r) => ({ watts: r.weakest_watts, u: r.expanded_watts })),
  { key: 'found', head: 'Findings', text: (r) => r.findings.map((f) => f.code).join(' '), unsorted: true },
]
</script>

<template>
  <DataTable v-if="readings.length" :id="(r) => r.row" name="Readings of the table" :rows="first" :columns="COLUMNS">
    <template #found="{ row }"><FindingsList :findings="row.findings" brief /></template>
  </DataTable>
  <p v-if="readings.length > MOST" class="quiet">and {{ readings.length - MOST }} more, all kept with these</p>
</template>
