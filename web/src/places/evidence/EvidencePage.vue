<script setup lang="ts">
// All attempts, the newest first, read on page by page.
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import { figure } from '../../kit/quantity'
import { END_WORDS, moment, place } from '../../trade/format'
import ProblemNote from '../../kit/ProblemNote.vue'
import WattsFigure from '../../trade/WattsFigure.vue'

const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({
  queryKey: ['attempts'],
  initialPageParam: undefined as number | undefined,
  queryFn: ({ pageParam }) =>
    answered(client.GET('/api/attempts', { params: { query: { before: pageParam, limit: 40 } } })),
  getNextPageParam: (page) => page.next ?? undefined,
})
const items = computed(() => data.value?.pages.flatMap((page) => page.items) ?? [])
const unreadable = computed(() => data.value?.pages.flatMap((page) => page.unreadable) ?? [])
</script>

<template>
  <header class="head">
    <div>
      <h1>Evidence</h1>
      <p class="quiet">Every attempt at every run; nothing is ever overwritten.</p>
    </div>
    <RouterLink v-slot="{ navigate }" to="/evidence/earlier" custom>
      <a-button @click="navigate">Take in a table of earlier results</a-button>
    </RouterLink>
  </header>
  <p v-for="sentence in unreadable" :key="sentence" class="danger">{{ sentence }}</p>
  <ProblemNote v-if="error" :error="error" />
  <p v-else-if="data && !items.length" class="quiet empty">
    Nothing has been run yet. Choose a unit on the <RouterLink to="/line">line</RouterLink> and plan a campaign.
  </p>
  <table v-else class="figures section">
    <thead>
      <tr>
        <th scope="col">Run</th>
        <th scope="col">Model</th>
        <th scope="col">Unit</th>
        <th scope="col">Mode</th>
        <th scope="col">Load</th>
        <th class="num" scope="col">Weakest, W</th>
        <th class="num" scope="col">Supply, V</th>
        <th scope="col">End</th>
        <th scope="col">Checks</th>
        <th scope="col">By</th>
        <th scope="col">Started</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="a in items" :key="a.id" class="link">
        <td>
          <RouterLink :to="`/attempts/${a.id}`">{{ a.id }}</RouterLink><span v-if="a.number > 1" class="quiet">
            (attempt {{ a.number }})</span
          ><span v-if="a.origin !== 'bench'" class="quiet origin">{{ a.origin }}</span>
        </td>
        <td>{{ a.model_name }}</td>
        <td class="mono">{{ a.unit_serial }}</td>
        <td>{{ a.mode }}</td>
        <td>{{ a.group }}, {{ place(a) }}</td>
        <td class="num"><WattsFigure :value="a.weakest_watts" :u="a.expanded_watts" /></td>
        <td class="num">{{ figure(a.supply_volts, 2) }}</td>
        <td :class="{ danger: !a.at_limit }">{{ a.end ? END_WORDS[a.end] : 'running' }}</td>
        <td class="checks">
          <span v-for="f in a.findings" :key="f.code" :data-severity="f.severity" :title="f.message">{{ f.code }}</span>
        </td>
        <td>{{ a.started_by }}</td>
        <td class="quiet">{{ moment(a.started_at) }}</td>
      </tr>
    </tbody>
  </table>
  <a-button v-if="hasNextPage" class="more" :loading="isFetchingNextPage" @click="fetchNextPage()"
    >Show older ones</a-button
  >
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: flex-end;
}
.origin {
  margin-left: 8px;
}
.checks {
  max-width: 190px;
  font: 12px/1.4 var(--mono);
}
.checks span {
  display: inline-block;
  white-space: nowrap;
  margin-right: 8px;
  color: var(--ink-2);
}
.checks [data-severity='doubt'] {
  color: var(--doubt);
}
.checks [data-severity='invalid'] {
  color: var(--danger);
  text-decoration: underline;
}
.empty {
  padding: 24px 0;
}
.more {
  margin-top: 14px;
}
</style>
