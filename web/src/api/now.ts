// What goes on at this moment: the benches, what others changed, and whether the server answers at all.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, readonly, ref, shallowReactive, shallowRef, watch } from 'vue'
import client, { answered } from './client'
import { useWho } from '../kit/who'
import type { ChangeView } from './types'

/** How often it is asked; others' changes are seen within a second. One short question leaves connections free. */
const ASK_MS = 800
const PATIENCE_MS = 2000
const TOLD_MS = 7000
const MOST_EDITED = 6

let known: number | undefined
/** What forms are open on here, as “model/3”, told with each question. */
const edited = new Map<symbol, string>()
const listeners = new Set<(change: ChangeView) => void>()

/** The latest that the server told; asked while the page is looked at. */
export const useNow = () =>
  useQuery({
    queryKey: ['now'],
    refetchInterval: ASK_MS,
    retry: false,
    meta: { fixed: true },
    queryFn: async () => {
      const now = await answered(
        client.GET('/api/now', {
          params: { query: { after: known, editing: [...new Set(edited.values())].slice(0, MOST_EDITED) } },
          signal: AbortSignal.timeout(PATIENCE_MS),
        }),
      )
      known = now.last_change
      return now
    },
  })

const MOST_TOLD = 3

/** Each person's latest with how many came before it: someone who is busy does not cover a page. */
export function latestOfEach(changes: readonly ChangeView[]) {
  const found = new Map<string, ChangeView & { before: number }>()
  for (const change of changes) {
    const earlier = found.get(change.person)
    found.delete(change.person) // who did something last stands last
    found.set(change.person, { ...change, before: earlier ? earlier.before + 1 : 0 })
  }
  return [...found.values()].slice(-MOST_TOLD)
}

/** Keep everything that is shown up to date with what others do; once, in the frame. */
export function useOthers() {
  const { data: now, isError, dataUpdatedAt } = useNow()
  const queries = useQueryClient()
  const { name } = useWho()
  const told = shallowReactive<ChangeView[]>([])
  const lostSince = shallowRef<Date | null>(null)
  let before: number | undefined

  function tell(change: ChangeView) {
    listeners.forEach((listen) => listen(change))
    told.push(change)
    setTimeout(() => told.splice(told.indexOf(change), 1), TOLD_MS)
  }
  watch(now, (answer) => {
    if (!answer) return
    const isNew = before !== undefined && answer.last_change !== before
    before = answer.last_change
    answer.changes.filter((change) => change.person !== name.value).forEach(tell)
    if (isNew) void queries.invalidateQueries({ predicate: (query) => !query.meta?.fixed })
  })
  watch(isError, (lost) => {
    if (lost) lostSince.value = new Date(dataUpdatedAt.value || Date.now())
    else {
      lostSince.value = null
      // What was changed meanwhile is told with the first answer; what was read before and did not change still holds.
      void queries.invalidateQueries({ predicate: (query) => query.state.status === 'error' })
    }
  })
  return { told, lostSince: readonly(lostSince) }
}

/**
 * What others changed of a subject since a form was opened.
 *
 * @param subject as “model/3”
 * @param open whether the form is open; what was changed before does not count
 */
export function useChangedMeanwhile(subject: () => string, open: () => boolean) {
  const changes = ref<ChangeView[]>([])
  const listen = (change: ChangeView) => {
    if (open() && change.subject === subject()) changes.value.push(change)
  }
  listeners.add(listen)
  onScopeDispose(() => listeners.delete(listen))
  watch(open, () => (changes.value = []))
  return computed(() => changes.value)
}

/**
 * While a form is open on a subject: others are told that this person edits it; who else does is returned.
 *
 * @param subject as “model/3”
 */
export function useEditors(subject: () => string, open: () => boolean) {
  const { data: now } = useNow()
  const form = Symbol()
  watch(
    () => (open() ? subject() : ''),
    (edits) => (edits ? edited.set(form, edits) : edited.delete(form)),
    { immediate: true },
  )
  onScopeDispose(() => edited.delete(form))
  return computed(() => now.value?.editing.filter((one) => one.subject === subject()).map((one) => one.person) ?? [])
}
