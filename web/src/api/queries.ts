import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import type { QueryClient } from '@tanstack/vue-query'
import { toValue } from 'vue'
import type { MaybeRefOrGetter } from 'vue'
import client, { answered } from './client'
import { useRule } from './rule'

const rule = useRule()
const guarded = () => ({ guarded: rule.value === 'guarded' })

export const keys = {
  line: ['line'] as const,
  bench: ['bench'] as const,
  campaigns: ['campaigns'] as const,
  campaign: (id: number) => ['campaign', id] as const,
  attempt: (id: number) => ['attempt', id] as const,
}

export const useLine = (enabled: MaybeRefOrGetter<boolean> = true) =>
  useQuery({
    queryKey: [...keys.line, rule],
    enabled,
    queryFn: () => answered(client.GET('/api/line', { params: { query: guarded() } })),
  })

export const useModel = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['model', id, rule],
    queryFn: () =>
      answered(client.GET('/api/models/{model_id}', { params: { path: { model_id: toValue(id) }, query: guarded() } })),
  })

export const useUnit = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['unit', id, rule],
    queryFn: () =>
      answered(client.GET('/api/units/{unit_id}', { params: { path: { unit_id: toValue(id) }, query: guarded() } })),
  })

export const useBench = () =>
  useQuery({
    queryKey: keys.bench,
    queryFn: () => answered(client.GET('/api/bench')),
    refetchInterval: 1500,
  })

export const useCampaigns = (enabled: MaybeRefOrGetter<boolean> = true) =>
  useQuery({
    queryKey: keys.campaigns,
    enabled,
    queryFn: () => answered(client.GET('/api/campaigns', { params: { query: { limit: 50 } } })),
  })

export const useCampaign = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['campaign', id],
    queryFn: () =>
      answered(client.GET('/api/campaigns/{campaign_id}', { params: { path: { campaign_id: toValue(id) } } })),
  })

export const useAttempt = (id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: ['attempt', id],
    queryFn: () =>
      answered(client.GET('/api/attempts/{attempt_id}', { params: { path: { attempt_id: toValue(id) } } })),
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
  for (const queryKey of [['line'], ['model'], ['unit'], ['campaign'], ['campaigns'], ['bench'], ['attempts']])
    void queries.invalidateQueries({ queryKey })
}
