<script setup lang="ts">
// The line as a spreadsheet: taken along, edited, rehearsed row by row, and taken in as a whole.
import { API } from '../../kit/base'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import { useAct } from '../../kit/act'
import type { ExchangeView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import FileDrop from '../../kit/FileDrop.vue'
import PageFrame from '../../kit/PageFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'

type Row = ExchangeView['rows'][number]
const mayDescribe = useMay('describe')
const file = ref<File | null>(null)
const rehearsal = ref<ExchangeView | null>(null)
const taken = ref<ExchangeView | null>(null)
/** A file as it is: the client would make JSON of it. */
const asItIs = (sent: File) => ({
  body: sent as never,
  bodySerializer: (body: unknown) => body as Blob,
  headers: { 'Content-Type': 'application/octet-stream' },
})
const rehearse = useAct((sent: File) => answered(client.POST('/api/line/workbook/rehearsal', asItIs(sent))), {
  takesLong: true,
  done: (view) => (rehearsal.value = view),
})
const take = useAct(() => answered(client.POST('/api/line/workbook', asItIs(file.value!))), {
  takesLong: true,
  done: (view) => {
    taken.value = view
    rehearsal.value = null
  },
})
function dropped(chosen: File) {
  file.value = chosen
  rehearsal.value = taken.value = null
  take.forget()
  void rehearse.act(chosen)
}
const COLUMNS: Column<Row>[] = [
  { key: 'sheet', head: 'Sheet', text: (row) => row.sheet },
  { key: 'row', head: 'Row', text: (row) => `${row.row}`, value: (row) => row.row, num: true },
  { key: 'name', head: 'Of', text: (row) => row.name },
  { key: 'state', head: 'What becomes of it', text: (row) => row.state, look: 'nowrap' },
  { key: 'words', head: 'Fields, or why not', text: (row) => row.words },
  { key: 'column', head: 'Column', text: (row) => row.column },
]
const summary = computed(() => {
  const one = rehearsal.value
  return one && `${one.new} new, ${one.changed} changed, ${one.same} as they are, ${one.refused} refused`
})
const changes = computed(() => (rehearsal.value ? rehearsal.value.new + rehearsal.value.changed : 0))
</script>

<template>
  <PageFrame title="The line as a spreadsheet" :trail="[{ name: 'Line', to: '/line' }, { name: 'Spreadsheet' }]" />
  <h1>The line as a spreadsheet</h1>
  <p class="quiet">
    Series, models, channel groups, claims and units, a sheet each. What no column tells stays as it is; a claim is
    added, never changed.
  </p>
  <p class="take"><a :href="`${API}/line/workbook`" download>Take the line along (.xlsx)</a></p>
  <template v-if="mayDescribe">
    <FileDrop accept=".xlsx" class="small" @file="dropped">
      <strong>{{ file ? file.name : 'Drop a spreadsheet here, or choose one' }}</strong>
      <span class="quiet"
        >It is rehearsed first: nothing is stored before you have seen what becomes of every row.</span
      >
    </FileDrop>
    <p v-if="rehearse.pending.value" role="status" class="quiet said">Every row is looked at …</p>
    <ProblemNote v-if="rehearse.problem.value" :error="rehearse.problem.value" />
    <section v-if="rehearsal" class="section">
      <header>
        <h2>Rehearsal</h2>
        <span class="quiet" role="status">{{ summary }}</span>
        <span class="spacer" />
        <a-button
          type="primary"
          :loading="take.pending.value"
          :disabled="!changes || rehearsal.refused > 0"
          @click="take.act()"
          >Take it in</a-button
        >
      </header>
      <p v-if="rehearsal.refused" class="danger said">
        Nothing is taken in while a row is refused: mend those in the spreadsheet, and drop it again.
      </p>
      <p v-else-if="!changes" class="quiet said">Everything is as it is on record.</p>
      <ProblemNote v-if="take.problem.value" :error="take.problem.value" />
      <DataTable
        v-if="rehearsal.rows.length"
        :id="(row) => `${row.sheet}${row.row}`"
        name="Rehearsal of the line"
        :rows="rehearsal.rows"
        :columns="COLUMNS"
        :marked="(row) => (row.state === 'refused' ? 'refused' : undefined)"
      />
    </section>
    <p v-if="taken" role="status" class="said">
      Taken in: {{ taken.new }} new, {{ taken.changed }} changed. <RouterLink to="/line">Look at the line</RouterLink>
    </p>
  </template>
</template>

<style scoped>
.take {
  margin: 12px 0 0;
}
.small {
  padding: 34px 30px;
}
.said {
  padding: 10px 0;
}
:deep(.refused td) {
  color: var(--danger);
}
</style>
