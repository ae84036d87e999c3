// Doing something that changes what is on record: who does it, once, what became of it, and everything read afresh.
import { useQueryClient } from '@tanstack/vue-query'
import { readonly, ref, shallowRef } from 'vue'
import { useWho } from './who'

/** How long an answer may take before the page says that there is none. */
export const PATIENCE_MS = 2000

/** That the server has not answered yet; what was asked still stands. */
export const UNANSWERED = {
  problem: { what: 'The server does not answer.', todo: 'What was asked stands; it is done once the server is back.' },
}

export interface ActOptions<R> {
  /** What comes after it went well, before anything is read afresh. */
  done?: (result: R) => unknown
  /** Whether somebody must be signed in for it; the page asks for that where nobody is. */
  asksWho?: boolean
  /** It is known to take its time and shows how far it is: that there is no answer yet says nothing. */
  takesLong?: boolean
}

/**
 * Something that a person does on a page.
 *
 * While it goes on a second press does nothing. What went wrong stands in `problem` until the next try; after two
 * seconds without an answer the page says so. Whatever came of it, everything that is shown is read afresh.
 *
 * @param work what is done; it is sent with a key of its own, so that the server does it once (`api/sentOnce.ts`)
 */
export function useAct<A extends unknown[], R>(work: (...args: A) => Promise<R>, options: ActOptions<R> = {}) {
  const queries = useQueryClient()
  const who = useWho()
  const pending = ref(false)
  const problem = shallowRef<unknown>(null)

  /** Do it; whether it went well. */
  async function act(...args: A): Promise<boolean> {
    if (pending.value) return false
    pending.value = true
    problem.value = null
    let late: ReturnType<typeof setTimeout> | undefined
    try {
      if (options.asksWho !== false && !who.required()) return false
      if (!options.takesLong) late = setTimeout(() => (problem.value = UNANSWERED), PATIENCE_MS)
      const result = await work(...args)
      problem.value = null
      await options.done?.(result)
      return true
    } catch (failure) {
      problem.value = failure
      return false
    } finally {
      clearTimeout(late)
      pending.value = false
      void queries.invalidateQueries({ predicate: (query) => query.queryKey[0] === 'now' || !query.meta?.fixed })
    }
  }
  const forget = () => (problem.value = null)

  return { act, pending: readonly(pending), problem, forget }
}
