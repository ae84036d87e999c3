<script setup lang="ts">
// Every unit of a sample with its figure, and why it does not count where it does not.
import type { PopulationView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'

type Row = PopulationView['rows'][number]
const props = defineProps<{
  found: PopulationView
  /** What is done with a unit, as the head of its column; the slot has the button. */
  act?: string
  /** Of when it is, where that is not now. */
  said?: string
  /** Nothing leads to the records. */
  unlinked?: boolean
}>()
defineSlots<{ act(props: { row: Row }): unknown }>()
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
]
const columns = props.act ? [...COLUMNS, { key: 'act', head: props.act, text: () => '', unsorted: true }] : COLUMNS
</script>

<template>
  <section class="section">
    <header>
      <h2>Units</h2>
      <span class="quiet">{{ said ? `${said}; ` : '' }}one figure each; who does not count says why</span>
    </header>
    <DataTable
      :id="(row) => row.unit_id"
      name="Units of the sample"
      :rows="found.rows"
      :columns="columns"
      :to="unlinked ? undefined : (row) => (row.attempt_id ? `/attempts/${row.attempt_id}` : `/units/${row.unit_id}`)"
      :marked="(row) => (row.left_out ? 'out' : undefined)"
    >
      <template v-if="act" #act="{ row }"><slot name="act" :row="row" /></template>
    </DataTable>
  </section>
</template>

<style scoped>
:deep(.out td) {
  color: var(--ink-2);
}
</style>
