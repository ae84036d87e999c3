<script setup lang="ts">
// The units of a model that are on record, with what each gave at every load.
import { computed } from 'vue'
import type { ModelView, UnitRow } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { day, ohms, watts } from '../../trade/format'
import WattsFigure from '../../trade/WattsFigure.vue'

const props = defineProps<{ model: ModelView; more: { has: boolean; loading: boolean } }>()
const emit = defineEmits<{ more: [] }>()
const columns = computed((): Column<UnitRow>[] => [
  { key: 'serial', head: 'Serial number', text: (u) => u.serial, look: 'mono' },
  { key: 'lot', head: 'Lot', text: (u) => u.lot, look: 'mono' },
  { key: 'revision', head: 'Revision', text: (u) => u.revision },
  { key: 'origin', head: 'How it came', text: (u) => [u.facts.came, u.origin].filter(Boolean).join(', ') },
  { key: 'state', head: 'State', text: (u) => u.facts.state, look: 'nowrap' },
  { key: 'received', head: 'Received', text: (u) => day(u.received_at), value: (u) => u.received_at, look: 'nowrap' },
  ...props.model.reaches.map((r, i) => ({
    key: `at${i}`,
    head: `${r.group} ${ohms(r.load_ohms)}${r.bridged ? ' bridged' : ''}`,
    unit: 'W',
    text: (u: UnitRow) => watts(u.reaches[i]?.certified_watts, u.reaches[i]?.expanded_watts),
    value: (u: UnitRow) => u.reaches[i]?.certified_watts,
    num: true,
  })),
])
</script>

<template>
  <DataTable
    :id="(u) => u.id"
    :name="`Units of ${model.name}`"
    :rows="model.units"
    :columns="columns"
    :to="(u) => `/units/${u.id}`"
    sort-name="units"
    :more="more"
    more-words="Show more units"
    @more="emit('more')"
  >
    <template v-for="(_, i) in model.reaches" :key="i" #[`at${i}`]="{ row }">
      <WattsFigure :value="row.reaches[i]?.certified_watts ?? null" :u="row.reaches[i]?.expanded_watts ?? null" />
    </template>
  </DataTable>
</template>
