// A recorded file from its arrival to its place on record: sent, read in the background, stopped, kept or let go.
import { API } from '../../kit/base'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import type { RecordingSetup, RecordingView } from '../../api/types'
import { useAct } from '../../kit/act'
import { useAddress } from '../../kit/address'
import { sendFile } from '../../api/send'
import type { Sending } from '../../api/send'

/** While a file is read, how often it is asked how far that is. */
const ASK_MS = 250

export function useRecording() {
  const router = useRouter()
  const queries = useQueryClient()
  const file = useAddress<string>('file', '')
  const path = () => ({ params: { path: { recording_id: file.value } } })
  const known = (view: RecordingView) => queries.setQueryData(['recording', view.id], view)

  const { data: recording, error: gone } = useQuery({
    queryKey: ['recording', file],
    enabled: computed(() => file.value !== ''),
    retry: false,
    refetchInterval: (query) => ((query.state.data as RecordingView | undefined)?.state === 'reading' ? ASK_MS : false),
    queryFn: () => answered(client.GET('/api/recordings/{recording_id}', path())),
  })

  const sending = shallowRef<Sending<RecordingView> | null>(null)
  const sent = ref(0)
  const sends = useAct(
    async (dropped: File) => {
      sent.value = 0
      sending.value = sendFile<RecordingView>(
        `${API}/recordings`,
        dropped,
        dropped.name,
        (share) => (sent.value = share),
      )
      try {
        return await sending.value.done
      } finally {
        sending.value = null
      }
    },
    {
      asksWho: false,
      takesLong: true,
      done: (arrived) => {
        known(arrived)
        file.value = arrived.id
      },
    },
  )
  const reads = useAct(
    (unitId: number, body: RecordingSetup) => {
      const params = { ...path().params, query: { unit_id: unitId } }
      return answered(client.POST('/api/recordings/{recording_id}/read', { params, body }))
    },
    { asksWho: false, done: known },
  )
  const stops = useAct(() => answered(client.POST('/api/recordings/{recording_id}/stop', path())), {
    asksWho: false,
    done: known,
  })
  const letsGo = useAct(
    async () => {
      await client.DELETE('/api/recordings/{recording_id}', path())
    },
    {
      asksWho: false,
      done: () => (file.value = ''),
    },
  )
  const keeps = useAct(() => answered(client.POST('/api/recordings/{recording_id}/keep', path())), {
    done: (kept) => router.push(`/attempts/${kept.attempt_id}`),
  })
  const acts = [sends, reads, stops, letsGo, keeps]
  const problem = computed(() => acts.map((one) => one.problem.value).find(Boolean) ?? null)

  return {
    recording,
    gone,
    sending,
    sent,
    take: sends.act,
    read: reads.act,
    stop: stops.act,
    letGo: letsGo.act,
    keep: keeps.act,
    keeping: keeps.pending,
    problem,
  }
}
