<script setup lang="ts">
// All attempts, the newest first, read on page by page; or those that are asked for in the address.
import { useMay } from '../../api/me'
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import client, { answered } from '../../api/client'
import { PAGED } from '../../api/queries'
import type { AttemptRow } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { figure } from '../../kit/quantity'
import { END_WORDS, moment, place } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'
import WattsFigure from '../../trade/WattsFigure.vue'
import EvidenceFilters from './EvidenceFilters.vue'
import SeverityMark from './SeverityMark.vue'

const FILTERS = ['model', 'unit', 'mode', 'load', 'end', 'person', 'since', 'until', 'check', 'stands'] as const
const route = useRoute()
/** What a screen shows at once; who asks for more gets more at a time. */
const [FIRST, LATER] = [20, 40]
const asked = computed(() =>
  Object.fromEntries(FILTERS.flatMap((name) => (route.query[name] ? [[name, String(route.query[name])]] : []))),
)
const { data, error, isPending, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({
  ...PAGED,
  queryKey: ['attempts', asked],
  initialPageParam: undefined as number | undefined,
  queryFn: ({ pageParam }) =>
    answered(
      client.GET('/api/attempts', {
        params: { query: { ...asked.value, before: pageParam, limit: pageParam ? LATER : FIRST } },
      }),
    ),
  getNextPageParam: (page) => page.next ?? undefined,
})
const items = computed(() => data.value?.pages.flatMap((page) => page.items) ?? [])
const unreadable = computed(() => data.value?.pages.flatMap((page) => page.unreadable) ?? [])
const ORIGINS: Record<string, string> = {
  bench: '',
  typed: 'by hand',
  recorded: 'recording',
  table: 'earlier result',
  read_again: 'read again',
}
const serious = (a: AttemptRow) => a.findings.filter((f) => f.overruled_by === null)

const COLUMNS: Column<AttemptRow>[] = [
  { key: 'id', head: 'Attempt', text: (a) => String(a.id), value: (a) => a.id },
  { key: 'model', head: 'Model', text: (a) => a.model_name },
  { key: 'unit', head: 'Unit', look: 'mono', text: (a) => a.unit_serial },
  { key: 'mode', head: 'Mode', text: (a) => a.mode },
  { key: 'load', head: 'Load', text: (a) => `${a.group}, ${place(a)}`, value: (a) => a.load_ohms },
  { key: 'watts', head: 'Weakest', unit: 'W', num: true, text: () => '', value: (a) => a.weakest_watts },
  {
    key: 'supply',
    head: 'Supply',
    unit: 'V',
    num: true,
    text: (a) => figure(a.supply_volts, 2),
    value: (a) => a.supply_volts,
  },
  { key: 'end', head: 'End', text: (a) => (a.end ? END_WORDS[a.end] : 'running') },
  {
    key: 'checks',
    head: 'Checks',
    text: (a) =>
      serious(a)
        .map((f) => f.code)
        .join(' '),
    value: (a) =>
      serious(a)
        .map((f) => f.code)
        .join(' '),
  },
  { key: 'by', head: 'By', text: (a) => a.started_by },
  { key: 'started', head: 'Started', look: 'quiet', text: (a) => moment(a.started_at), value: (a) => a.started_at },
]
const mayMeasure = useMay('measure')
</script>

<template>
  <PageFrame title="Evidence" :pending="isPending" :error="error" @retry="refetch">
    <template #head>
      <header class="head">
        <div>
          <h1>Evidence</h1>
          <p class="quiet">
            Every attempt at every run; nothing is ever overwritten.
            <RouterLink to="/evidence/read-again">Read the waveforms again</RouterLink>
          </p>
        </div>
        <RouterLink v-if="mayMeasure" v-slot="{ navigate }" to="/evidence/earlier" custom>
          <a-button @click="navigate">Take in a table of earlier results</a-button>
        </RouterLink>
      </header>
      <EvidenceFilters />
    </template>
    <p v-for="sentence in unreadable" :key="sentence" class="danger">{{ sentence }}</p>
    <p v-if="!items.length && Object.keys(asked).length" class="quiet empty">
      {{ hasNextPage ? 'None among the latest; read on below.' : 'Nothing on record is like that.' }}
      <a-button v-if="hasNextPage" :loading="isFetchingNextPage" @click="fetchNextPage()">Look further back</a-button>
    </p>
    <p v-else-if="!items.length" class="quiet empty">
      Nothing has been run yet. Choose a unit on the <RouterLink to="/line">line</RouterLink> and plan a campaign.
    </p>
    <DataTable
      v-else
      :id="(a) => a.id"
      name="Evidence"
      :rows="items"
      :columns="COLUMNS"
      :to="(a) => `/attempts/${a.id}`"
      :more="{ has: !!hasNextPage, loading: isFetchingNextPage }"
      more-words="Show older ones"
      @more="fetchNextPage()"
    >
      <template #id="{ row: a }"
        >{{ a.id }}<span v-if="a.number > 1" class="quiet"> (attempt {{ a.number }})</span
        ><span v-if="a.simulated || ORIGINS[a.origin]" class="quiet origin">{{
          ` ${a.simulated ? 'simulated' : ORIGINS[a.origin]}`
        }}</span></template
      >
      <template #mode="{ row: a }"><ModeMark :mode="a.mode" named /> {{ a.mode }}</template>
      <template #watts="{ row: a }"><WattsFigure :value="a.weakest_watts" :u="a.expanded_watts" /></template>
      <template #end="{ row: a }"
        ><span :class="{ danger: !a.at_limit }">{{ a.end ? END_WORDS[a.end] : 'running' }}</span></template
      >
      <template #checks="{ row: a }"><SeverityMark v-for="f in serious(a)" :key="f.code" :finding="f" /></template>
    </DataTable>
  </PageFrame>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  justify-content: space-between;
  align-items: flex-end;
}
.head a {
  text-decoration: underline;
}
.origin {
  margin-left: 4px;
}
.empty {
  padding: 24px 0;
}
</style>
