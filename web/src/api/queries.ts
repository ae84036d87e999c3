import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import type { QueryClient } from '@tanstack/vue-query'
import { computed, toValue } from 'vue'
import type { MaybeRefOrGetter } from 'vue'
import client, { answered } from './client'
import { useNow } from './now'
import { ruled, useRule } from './rule'

const rule = useRule()

export const keys = {
  line: ['line'] as const,
  now: ['now'] as const,
  campaigns: ['campaigns'] as const,
  campaign: (id: number) => ['campaign', id] as const,
  attempt: (id: number) => ['attempt', id] as const,
}

/**
 * What is read on page by page is read again when something was changed, which `now` tells, and never just because
 * somebody came back to it.
 */
export const PAGED = { staleTime: Infinity } as const

/** The line, page by page; a series that goes on over a page is one series again. */
export function useLine() {
  const pages = useInfiniteQuery({
    ...PAGED,
    queryKey: [...keys.line, rule],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      answered(client.GET('/api/line', { params: { query: { ...ruled(), after: pageParam, limit: 50 } } })),
    getNextPageParam: (page) => page.next ?? undefined,
  })
  const data = computed(() => {
    const all = pages.data.value?.pages
    if (!all) return undefined
    const series = new Map<number, (typeof all)[number]['series'][number]>()
    for (const one of all.flatMap((page) => page.series)) {
      const known = series.get(one.id)
      series.set(one.id, known ? { ...known, models: [...known.models, ...one.models] } : one)
    }
    return { series: [...series.values()], last_step_id: all.at(-1)!.last_step_id }
  })
  return { ...pages, data }
}

/** A model with its units, page by page. */
export function useModel(id: MaybeRefOrGetter<number>) {
  const pages = useInfiniteQuery({
    ...PAGED,
    queryKey: ['model', id, rule],
    enabled: () => toValue(id) > 0,
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      answered(
        client.GET('/api/models/{model_id}', {
          params: { path: { model_id: toValue(id) }, query: { ...ruled(), after: pageParam } },
        }),
      ),
    getNextPageParam: (page) => page.next_unit ?? undefined,
  })
  const data = computed(() => {
    const all = pages.data.value?.pages
    return all?.[0] && { ...all[0], units: all.flatMap((page) => page.units) }
  })
  return { ...pages, data }
}

export const useUnit = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['unit', id, rule],
    queryFn: () =>
      answered(client.GET('/api/units/{unit_id}', { params: { path: { unit_id: toValue(id) }, query: ruled() } })),
  })

/** What every bench is doing. */
export function useBenches() {
  const { data: now, isError } = useNow()
  return { data: computed(() => now.value?.benches), isError }
}

/** One bench: the one of that number, else the first. */
export function useBench(id: MaybeRefOrGetter<number | null | undefined>) {
  const { data: benches } = useBenches()
  return computed(() => benches.value?.find((bench) => bench.id === toValue(id)) ?? benches.value?.[0])
}

/** Campaigns, the newest first, page by page: those with runs left, those without, or a unit's. */
export function useCampaigns(which: 'open' | 'done' | 'all', unit?: MaybeRefOrGetter<number>) {
  const pages = useInfiniteQuery({
    ...PAGED,
    queryKey: [...keys.campaigns, which, unit],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      answered(
        client.GET('/api/campaigns', {
          params: { query: { which, unit: toValue(unit), before: pageParam, limit: 20 } },
        }),
      ),
    getNextPageParam: (page) => page.next ?? undefined,
  })
  const items = computed(() => pages.data.value?.pages.flatMap((page) => page.items) ?? [])
  return { ...pages, items }
}

/** Models, units and campaigns by any part of their names. */
export const useFound = (words: MaybeRefOrGetter<string>, enabled: MaybeRefOrGetter<boolean>) =>
  useQuery({
    queryKey: ['found', words],
    enabled: () => toValue(enabled) && toValue(words).trim() !== '',
    placeholderData: keepPreviousData,
    queryFn: () => answered(client.GET('/api/find', { params: { query: { words: toValue(words) } } })),
  })

/** The codes of all checks. */
export const useChecks = () =>
  useQuery({ queryKey: ['checks'], staleTime: Infinity, queryFn: () => answered(client.GET('/api/checks')) })

export const useCampaign = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['campaign', id, rule],
    queryFn: () =>
      answered(
        client.GET('/api/campaigns/{campaign_id}', {
          params: { path: { campaign_id: toValue(id) }, query: ruled() },
        }),
      ),
  })

export const useAttempt = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['attempt', id, rule],
    queryFn: () =>
      answered(
        client.GET('/api/attempts/{attempt_id}', { params: { path: { attempt_id: toValue(id) }, query: ruled() } }),
      ),
  })

export const useWave = (
  id: MaybeRefOrGetter<number>,
  channel: MaybeRefOrGetter<number>,
  enabled: MaybeRefOrGetter<boolean> = true,
) =>
  useQuery({
    queryKey: ['wave', id, channel],
    enabled,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered(
        client.GET('/api/attempts/{attempt_id}/wave', {
          params: { path: { attempt_id: toValue(id) }, query: { channel: toValue(channel) } },
        }),
      ),
  })

export const useSpectrum = (
  id: MaybeRefOrGetter<number>,
  channel: MaybeRefOrGetter<number>,
  enabled: MaybeRefOrGetter<boolean> = true,
) =>
  useQuery({
    queryKey: ['spectrum', id, channel],
    enabled,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered(
        client.GET('/api/attempts/{attempt_id}/spectrum', {
          params: { path: { attempt_id: toValue(id) }, query: { channel: toValue(channel) } },
        }),
      ),
  })

/** After a run began or ended: everything that shows its figures. */
export function refreshEvidence(queries: QueryClient) {
  for (const queryKey of [['line'], ['model'], ['unit'], ['campaign'], ['campaigns'], ['now'], ['attempts']])
    void queries.invalidateQueries({ queryKey })
}
