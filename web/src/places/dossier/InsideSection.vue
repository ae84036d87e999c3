<script setup lang="ts">
// What was found inside of a unit, by place; fuses that carry no current stand out.
import { ref } from 'vue'
import { INSIDES, useKept } from '../../api/kept'
import type { InsideView } from '../../api/kept'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { day } from '../../trade/format'
import InsideForm from './InsideForm.vue'

const props = defineProps<{ unit: number; attention: readonly string[]; mayChange: boolean }>()
const { open: insides } = useKept(INSIDES, () => props.unit)
const changed = ref<InsideView | null | undefined>()
type Part = InsideView['entry']['parts'][number]
const rating = (part: Part) =>
  [
    part.value,
    part.volts ? `${part.volts} V` : '',
    part.celsius ? `${part.celsius} °C` : '',
    part.mark ? `marked “${part.mark}”` : '',
    part.channels.length ? `channel ${part.channels.join(', ')}` : '',
  ]
    .filter(Boolean)
    .join(' · ')

interface Found {
  id: string
  place: string
  count?: string
  /** What a fuse or a fan is found to do; one that carries no current stands out. */
  state?: string
  warns?: boolean
  what?: string
}
const found = ({ entry }: InsideView): Found[] => [
  ...(entry.board_revision ? [{ id: 'board', place: 'board revision', what: entry.board_revision }] : []),
  ...entry.parts.map((part, at) => ({ id: `p${at}`, place: part.place, count: `${part.count} ×`, what: rating(part) })),
  ...entry.fuses.map((fuse, at) => ({
    id: `f${at}`,
    place: 'fuse',
    count: `${fuse.amps} A`,
    state: fuse.in_circuit ? 'in circuit' : 'not in circuit',
    warns: !fuse.in_circuit,
    what: fuse.remark,
  })),
  ...(entry.fan_ran === null ? [] : [{ id: 'fan', place: 'fan', what: entry.fan_ran ? 'ran' : 'did not run' }]),
]
const FOUND: Column<Found>[] = [
  { key: 'place', head: 'Place', text: (row) => row.place },
  { key: 'count', head: 'Count, rating', text: (row) => row.count ?? '', num: true },
  { key: 'what', head: 'What', text: (row) => [row.state, row.what].filter(Boolean).join(' ') },
]
</script>

<template>
  <section class="section">
    <header>
      <h2>Inside</h2>
      <span class="spacer" />
      <a-button v-if="mayChange" @click="changed = null">It was opened</a-button>
    </header>
    <p v-for="doubt in attention" :key="doubt" class="caution" role="note">{{ doubt }}</p>
    <p v-if="!insides.length" class="quiet empty">Nobody has opened it yet.</p>
    <article v-for="one in insides" :key="one.id">
      <p class="quiet line">
        Opened {{ one.entry.opened_on ?? day(one.at) }}, by {{ one.by }}
        <a-button v-if="mayChange" class="no-print" size="small" type="link" @click="changed = one">Change</a-button>
      </p>
      <DataTable :id="(row) => row.id" name="What was found inside" :rows="found(one)" :columns="FOUND" fixed plain>
        <template #what="{ row }">
          <span :class="{ danger: row.warns }">{{ row.state }}</span> {{ row.what }}
        </template>
      </DataTable>
      <p v-if="one.entry.remarks">{{ one.entry.remarks }}</p>
    </article>
    <InsideForm v-if="changed !== undefined" :unit="unit" :kept="changed" @close="changed = undefined" />
  </section>
</template>

<style scoped>
.empty,
.line {
  padding: 10px 0 4px;
}
.caution {
  margin-top: 10px;
}
.data-table {
  max-width: 760px;
}
</style>
