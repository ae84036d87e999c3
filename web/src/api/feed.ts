import { API } from '../kit/base'
import { useQueryClient } from '@tanstack/vue-query'
import { onScopeDispose, readonly, ref, shallowReadonly, shallowRef, toValue, watch } from 'vue'
import type { MaybeRefOrGetter } from 'vue'
import client, { answered } from './client'
import type { Told } from './feeds'
import { listen } from './listen'
import { refreshEvidence } from './queries'
import type { StepView } from './types'

/**
 * Follow a campaign's steps until the scope ends: each once, in order, by attempt.
 *
 * All pages of a browser share one connection, which comes back by itself and says which step it saw last, so nothing
 * is lost; while the page is hidden it does not listen, and takes up where it was. Steps that come in a burst are shown together at the next frame.
 */
export function useCampaignFeed(campaignId: MaybeRefOrGetter<number>, after: MaybeRefOrGetter<number | undefined>) {
  const queries = useQueryClient()
  const byAttempt = shallowRef<ReadonlyMap<number, readonly StepView[]>>(new Map())
  const connected = ref(false)
  let leave: (() => void) | null = null
  let address = ''
  let seen = 0
  let arrived: StepView[] = []
  let frame = 0

  function show() {
    frame = 0
    const next = new Map(byAttempt.value)
    for (const step of arrived) {
      const known = next.get(step.attempt_id) ?? []
      if (step.id > (known.at(-1)?.id ?? 0)) next.set(step.attempt_id, [...known, step])
    }
    // Lists of runs change only when one begins or ends, not with every step.
    if (arrived.some((step) => step.kind === 'prepared' || step.kind === 'finished')) refreshEvidence(queries)
    arrived = []
    byAttempt.value = next
  }

  function hear(told: Told) {
    connected.value = told.is !== 'lost'
    if (told.is !== 'step') return
    const step = JSON.parse(told.text) as StepView
    seen = Math.max(seen, step.id)
    arrived.push(step)
    if (!frame) frame = window.setTimeout(show, 60)
  }

  // A browser has few connections to a server; pages that nobody sees must leave them to Off.
  function lookedAt() {
    if (!address) return
    if (document.hidden) {
      leave?.()
      leave = null
    } else leave ??= listen(address, seen, hear)
  }
  document.addEventListener('visibilitychange', lookedAt)

  function close() {
    leave?.()
    leave = null
    address = ''
    clearTimeout(frame)
    frame = 0
    arrived = []
  }

  watch(
    () => [toValue(campaignId), toValue(after) !== undefined] as const,
    ([id, known]) => {
      close()
      byAttempt.value = new Map()
      connected.value = false
      if (!known) return
      address = `${API}/campaigns/${id}/events`
      seen = toValue(after)!
      lookedAt()
    },
    { immediate: true },
  )
  onScopeDispose(() => {
    close()
    document.removeEventListener('visibilitychange', lookedAt)
  })

  /** Fetch what happened in an attempt before this page was opened. */
  async function catchUp(attemptId: number) {
    const steps = await answered(
      client.GET('/api/attempts/{attempt_id}/steps', { params: { path: { attempt_id: attemptId } } }),
    )
    const next = new Map(byAttempt.value)
    const last = steps.at(-1)?.id ?? 0
    next.set(attemptId, [...steps, ...(next.get(attemptId) ?? []).filter((step) => step.id > last)])
    byAttempt.value = next
  }

  return { byAttempt: shallowReadonly(byAttempt), connected: readonly(connected), catchUp }
}
