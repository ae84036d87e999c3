// Something of the line that is changed: from which version, what somebody else made of it meanwhile, and its earlier ones.
import { computed, ref, shallowRef, watch } from 'vue'
import type { Ref } from 'vue'
import { useAct } from '../../kit/act'
import { problemOf } from '../../kit/problem'

export interface Seen<E> {
  number: number
  entry: E
}
export interface Apart {
  field: string
  mine: string
  theirs: string
}

const words = (value: unknown): string =>
  value === null || value === undefined || value === ''
    ? '–'
    : typeof value === 'object'
      ? JSON.stringify(value)
      : typeof value === 'boolean'
        ? value
          ? 'yes'
          : 'no'
        : `${value}`

/** “supply_low_volts” as people read it. */
export const fieldWords = (field: string) => field.replace(/_/g, ' ')

/** Where two texts of the same thing differ, field by field. */
export function apart<E extends object>(mine: E, theirs: E): Apart[] {
  return Object.keys(theirs)
    .map((field) => ({
      field: fieldWords(field),
      mine: words(mine[field as keyof E]),
      theirs: words(theirs[field as keyof E]),
    }))
    .filter((one) => one.mine !== one.theirs)
}

/**
 * A form that changes an entry.
 *
 * @param open whether the form is open; each time it is, the entry is read afresh
 * @param read the entry as it stands
 * @param fill puts an entry into the form
 * @param entered what the form says
 * @param send changes it from a version; refused as stale where that is not the one that holds
 */
export function useEntry<E extends object>(
  open: () => boolean,
  read: () => Promise<Seen<E>>,
  fill: (entry: E) => void,
  entered: () => E,
  send: (entry: E, seen: number) => Promise<unknown>,
  done: () => void,
) {
  const seen = ref(0)
  const theirs: Ref<Seen<E> | null> = shallowRef(null)
  const change = useAct(() => send(entered(), seen.value), { done })
  watch(
    open,
    async (now) => {
      if (!now) return
      theirs.value = null
      change.forget()
      const found = await read()
      seen.value = found.number
      fill(found.entry)
    },
    { immediate: true },
  )
  // Somebody was first: both texts are shown, and a person decides.
  watch(change.problem, async (problem) => {
    if (problem && problemOf(problem).code === 'stale') theirs.value = await read()
  })
  const differences = computed(() => (theirs.value ? apart(entered(), theirs.value.entry) : []))

  /** What is typed here goes over what somebody else made of it, which stays as a version. */
  function keepMine() {
    seen.value = theirs.value!.number
    theirs.value = null
    void change.act()
  }
  /** The form is what somebody else made of it. */
  function takeTheirs() {
    seen.value = theirs.value!.number
    fill(theirs.value!.entry)
    theirs.value = null
    change.forget()
  }
  return { ...change, seen, differences, keepMine, takeTheirs }
}
