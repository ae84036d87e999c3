<script setup lang="ts">
// Revisions of a model and the lots it was made in; two or more of them side by side.
import { computed, ref } from 'vue'
import { LOTS, REVISIONS, useKept } from '../../api/kept'
import type { LotView, RevisionView } from '../../api/kept'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import LotForm from './LotForm.vue'
import RevisionForm from './RevisionForm.vue'

const props = defineProps<{ model: { id: number; name: string }; mayChange: boolean }>()
const { open: revisions } = useKept(REVISIONS, () => props.model.id)
const { open: lots } = useKept(LOTS, () => props.model.id)
const lot = ref<LotView | null | undefined>()
const revision = ref<RevisionView | null | undefined>()
const beside = (kind: string, all: readonly { id: number }[]) =>
  `/side-by-side?kind=${kind}&id=${all
    .slice(-6)
    .map((one) => one.id)
    .join(',')}`

const REVISION_COLUMNS: Column<RevisionView>[] = [
  { key: 'revision', head: 'Revision', text: (one) => one.entry.name, look: 'nowrap' },
  { key: 'since', head: 'Since', text: (one) => one.entry.since ?? '', look: 'nowrap' },
  { key: 'changed', head: 'What changed', text: (one) => one.entry.changed },
  { key: 'act', head: '', text: () => '', unsorted: true },
]
const LOT_COLUMNS: Column<LotView>[] = [
  { key: 'lot', head: 'Lot', text: (one) => one.entry.name, look: 'mono' },
  { key: 'of', head: 'Revision', text: (one) => one.entry.revision },
  { key: 'made', head: 'Made on', text: (one) => one.entry.made_on ?? '', look: 'nowrap' },
  {
    key: 'count',
    head: 'How many',
    text: (one) => `${one.entry.count ?? ''}`,
    value: (one) => one.entry.count,
    num: true,
  },
  { key: 'remarks', head: 'Remarks', text: (one) => one.entry.remarks },
  { key: 'act', head: '', text: () => '', unsorted: true },
]
const isEmpty = computed(() => !revisions.value.length && !lots.value.length)
</script>

<template>
  <section class="section">
    <header>
      <h2>Revisions and lots</h2>
      <span class="spacer" />
      <RouterLink v-if="revisions.length > 1" :to="beside('revision', revisions)">Revisions side by side</RouterLink>
      <RouterLink v-if="lots.length > 1" :to="beside('lot', lots)">Lots side by side</RouterLink>
      <a-button v-if="mayChange" type="link" @click="revision = null">Add a revision</a-button>
      <a-button v-if="mayChange" type="link" @click="lot = null">Add a lot</a-button>
    </header>
    <p v-if="isEmpty" class="quiet empty">
      No revision or lot is on record. A unit that is received with one enters it here by itself.
    </p>
    <div v-else class="two">
      <div v-if="revisions.length">
        <DataTable
          :id="(one) => one.id"
          :name="`Revisions of ${model.name}`"
          :rows="revisions"
          :columns="REVISION_COLUMNS"
          sort-name="revisions"
        >
          <template #act="{ row }">
            <a-button v-if="mayChange" size="small" type="text" @click="revision = row">Change</a-button>
          </template>
        </DataTable>
      </div>
      <div v-if="lots.length">
        <DataTable
          :id="(one) => one.id"
          :name="`Lots of ${model.name}`"
          :rows="lots"
          :columns="LOT_COLUMNS"
          sort-name="lots"
        >
          <template #act="{ row }">
            <a-button v-if="mayChange" size="small" type="text" @click="lot = row">Change</a-button>
          </template>
        </DataTable>
      </div>
    </div>
    <LotForm v-if="lot !== undefined" :model="model.id" :kept="lot" @close="lot = undefined" />
    <RevisionForm v-if="revision !== undefined" :model="model.id" :kept="revision" @close="revision = undefined" />
  </section>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(440px, 100%), 1fr));
  gap: 8px 40px;
}
.two > * {
  min-width: 0;
}
.empty {
  padding: 14px 0;
}
</style>
