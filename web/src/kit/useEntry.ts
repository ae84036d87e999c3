// Something on record that is changed: from which version, what somebody else made of it meanwhile, and its earlier ones.
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import type { Ref } from 'vue'
import { useAct } from './act'
import { problemOf } from './problem'

export interface Seen<E> {
  number: number
  entry: E
}
export interface Apart {
  field: string
  mine: string
  theirs: string
}

type Fields = Record<string, unknown>
const isFields = (value: unknown): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

function words(value: unknown): string {
  if (value === null || value === undefined || value === '') return '–'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (Array.isArray(value)) return value.map(words).join('; ') || '–'
  if (!isFields(value)) return `${value}`
  const said = Object.entries(value).map(([field, one]) => [fieldWords(field), words(one)])
  return said
    .filter(([, one]) => one !== '–')
    .map((pair) => pair.join(' '))
    .join(', ')
}

const copied = <E extends object>(entry: E): E => JSON.parse(JSON.stringify(entry)) as E

/** An entry whose fields lie side by side; those of a part of it are told by their own names. */
const flat = (entry: object): Fields =>
  Object.fromEntries(
    Object.entries(entry).flatMap(([field, value]) => (isFields(value) ? Object.entries(value) : [[field, value]])),
  )

/** “supply_low_volts” as people read it. */
export const fieldWords = (field: string) => field.replace(/_/g, ' ')

/** Where two texts of the same thing differ, field by field. */
export function apart<E extends object>(mine: E, theirs: E): Apart[] {
  const [before, after] = [flat(mine), flat(theirs)]
  return [...new Set([...Object.keys(after), ...Object.keys(before)])]
    .map((field) => ({ field: fieldWords(field), mine: words(before[field]), theirs: words(after[field]) }))
    .filter((one) => one.mine !== one.theirs)
}

/**
 * An entry with what was typed before it came: a field that somebody changed meanwhile is theirs, the rest is as found.
 *
 * @param start the form when it opened
 * @param now the form as the entry comes
 */
export function withTyped<E extends object>(start: E, now: E, found: E): E {
  const merged: Fields = { ...(found as Fields) }
  for (const [field, value] of Object.entries(now)) {
    const [before, kept] = [(start as Fields)[field], merged[field]]
    if (JSON.stringify(before) === JSON.stringify(value)) continue
    merged[field] = isFields(before) && isFields(value) && isFields(kept) ? withTyped(before, value, kept) : value
  }
  return merged as E
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
      const reading = read()
      await nextTick() // what the form is made of stands by then
      const start = copied(entered())
      const found = await reading
      // On a slow server somebody may have typed before it came.
      fill(withTyped(start, copied(entered()), found.entry))
      seen.value = found.number
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
