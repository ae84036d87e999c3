// What is picked on a page lives in its address: it survives a reload, can be sent to somebody, and goes back with Back.
import { computed, nextTick } from 'vue'
import type { WritableComputedRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { LocationQueryRaw } from 'vue-router'

/** Several parts of an address that change at once are one step. */
let waiting: LocationQueryRaw | null = null

function usePart<T>(name: string, read: (text: string | null) => T, write: (value: T) => string | null) {
  const route = useRoute()
  const router = useRouter()
  return computed<T>({
    get: () => {
      const text = route.query[name]
      return read(typeof text === 'string' ? text : null)
    },
    set: (value) => {
      const changed = { [name]: write(value) ?? undefined }
      if (waiting) return void Object.assign(waiting, changed)
      waiting = changed
      void nextTick(() => {
        const query = { ...route.query, ...waiting }
        waiting = null
        void router.replace({ query, hash: route.hash })
      })
    },
  })
}

/**
 * A word of the address.
 *
 * @param known what it may be; anything else in an address counts as the fallback
 */
export function useAddress<T extends string>(name: string, fallback: T, known?: readonly T[]): WritableComputedRef<T> {
  const read = (text: string | null) =>
    text !== null && (!known || known.includes(text as T)) ? (text as T) : fallback
  return usePart(name, read, (value) => (value === fallback ? null : value))
}

/** A number of the address, or null. */
export const useAddressNumber = (name: string): WritableComputedRef<number | null> =>
  usePart(
    name,
    (text) => (text !== null && text.trim() !== '' && Number.isFinite(Number(text)) ? Number(text) : null),
    (value) => (value === null ? null : String(value)),
  )
