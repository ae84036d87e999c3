<script setup lang="ts">
// Everything that was ever done to something: who, when, and what it was before and after.
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import { PAGED } from '../../api/queries'
import PageFrame from '../../kit/PageFrame.vue'
import { moment } from '../../trade/format'

const props = defineProps<{ kind: string; id: string }>()
const { data, error, isPending, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({
  ...PAGED,
  queryKey: ['history', () => props.kind, () => props.id],
  initialPageParam: undefined as number | undefined,
  retry: false,
  queryFn: ({ pageParam }) =>
    answered(
      client.GET('/api/history/{kind}/{identity}', {
        params: { path: { kind: props.kind, identity: props.id }, query: { before: pageParam } },
      }),
    ),
  getNextPageParam: (page) => page.next ?? undefined,
})
const entries = computed(() => data.value?.pages.flatMap((page) => page.entries) ?? [])
const PLACES: Record<string, string> = { model: 'models', unit: 'units', campaign: 'campaigns', attempt: 'attempts' }
const placeOf = (subject: string) => {
  const [kind, id] = subject.split('/')
  return PLACES[kind!] ? `/${PLACES[kind!]}/${id}` : ''
}
const back = computed(() => placeOf(`${props.kind}/${props.id}`))
</script>

<template>
  <PageFrame
    :title="`History of ${kind} ${id}`"
    :trail="[{ name: 'Line', to: '/line' }, ...(back ? [{ name: `This ${kind}`, to: back }] : []), { name: 'History' }]"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  />
  <template v-if="entries.length">
    <h1>History of this {{ kind }}</h1>
    <p class="quiet">The audit chain, the latest first. Each entry is sealed over the one before it.</p>
    <ol class="chain">
      <li v-for="one in entries" :key="one.id">
        <time :datetime="one.at" class="quiet">{{ moment(one.at) }}</time>
        <div>
          <p>
            <strong>{{ one.person }}</strong> {{ one.action }}<template v-if="one.text">: {{ one.text }}</template>
          </p>
          <dl v-if="one.changes.length">
            <template v-for="(change, at) in one.changes" :key="at">
              <dt>{{ change.field }}</dt>
              <dd>
                <del v-if="change.before">{{ change.before }}</del> {{ change.after || 'nothing' }}
              </dd>
            </template>
          </dl>
        </div>
        <span
          ><RouterLink v-if="placeOf(one.subject) && placeOf(one.subject) !== back" :to="placeOf(one.subject)">{{
            one.subject.replace('/', ' ')
          }}</RouterLink></span
        >
        <span class="mono quiet seal" :title="`Sealed as ${one.hash}`">{{ one.id }} · {{ one.hash.slice(0, 8) }}</span>
      </li>
    </ol>
    <a-button v-if="hasNextPage" :loading="isFetchingNextPage" @click="fetchNextPage()">Show older ones</a-button>
  </template>
</template>

<style scoped>
.chain {
  margin: 14px 0;
  padding: 0;
  list-style: none;
  font-size: 14px;
}
.chain li {
  display: grid;
  grid-template-columns: 150px 1fr auto auto;
  gap: 4px 16px;
  padding: 8px 0;
  border-top: 1px solid var(--rule);
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 16px;
  margin: 4px 0 0;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
del {
  color: var(--ink-2);
}
.seal {
  font-size: 12px;
}
@media (max-width: 700px) {
  .chain li {
    grid-template-columns: 1fr;
  }
}
</style>
