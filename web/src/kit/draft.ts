// A form that is being filled in: kept by the browser for one record, checked when it is read back, with undo.
import { computed, nextTick, onScopeDispose, ref, shallowRef, watch } from 'vue'
import type { Ref } from 'vue'
import { BASE } from './base'
import { fitted, keptFields } from './stored'

/** Changes that follow each other within this time are one step of undo. */
const ONE_STEP_MS = 600
const MOST_STEPS = 50

const copy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

/**
 * A draft of a form.
 *
 * It survives a reload, its undo too. What was kept is taken only as far as it has the form's shape today. When another
 * tab of this browser changes it, `elsewhere` holds what it is there, until `take` or `keep` says which one counts.
 *
 * @param name one for each record: what is typed for one never stands in the form of another
 * @param blank the empty form
 */
export function useDraft<T extends object>(name: string, blank: T, storage: Storage = localStorage) {
  const key = `${BASE}${name}` // what is typed at a practice bench stands in no form of the lab's own
  const kept = keptFields(storage, key)
  const draft = ref(fitted(blank, kept.now)) as Ref<T>
  const before = shallowRef<T[]>(Array.isArray(kept.before) ? kept.before.map((one) => fitted(blank, one)) : [])
  const elsewhere = shallowRef<T | null>(null)
  let last = copy(draft.value)
  let changedAt = 0
  let isUndoing = false

  const write = () => storage.setItem(key, JSON.stringify({ now: draft.value, before: before.value }))
  const isBlank = computed(() => JSON.stringify(draft.value) === JSON.stringify(blank))

  watch(
    draft,
    (now) => {
      if (!isUndoing && JSON.stringify(now) !== JSON.stringify(last)) {
        const at = Date.now()
        if (at - changedAt > ONE_STEP_MS) before.value = [...before.value, last].slice(-MOST_STEPS)
        changedAt = at
      }
      last = copy(now)
      write()
    },
    { deep: true, flush: 'sync' },
  )

  /** Take back the last change. */
  function undo() {
    const step = before.value.at(-1)
    if (!step) return
    isUndoing = true
    before.value = before.value.slice(0, -1)
    draft.value = copy(step)
    changedAt = 0
    isUndoing = false
  }
  /** The form is empty again and nothing is kept of it: it was sent, or given up. */
  function forget() {
    isUndoing = true
    draft.value = copy(blank)
    before.value = []
    elsewhere.value = null
    isUndoing = false
    void nextTick(() => storage.removeItem(key))
  }
  /** Change all of it at once: a step of its own. */
  function set(next: T) {
    changedAt = 0
    draft.value = next
    changedAt = 0
  }
  /** Change it without a step: undo goes back to before what it belongs to. */
  function amend(next: T) {
    isUndoing = true
    draft.value = next
    isUndoing = false
  }
  /** What the other tab has counts here, too. */
  function take() {
    if (elsewhere.value) draft.value = copy(elsewhere.value)
    elsewhere.value = null
  }
  /** What stands here counts. */
  function keep() {
    elsewhere.value = null
    write()
  }

  function changed(event: StorageEvent) {
    if (event.key !== key || event.storageArea !== storage || event.newValue === null) return
    const there = fitted(blank, keptFields(storage, key).now)
    if (JSON.stringify(there) !== JSON.stringify(draft.value)) elsewhere.value = there
  }
  window.addEventListener('storage', changed)
  onScopeDispose(() => window.removeEventListener('storage', changed))

  return {
    draft,
    set,
    amend,
    undo,
    canUndo: computed(() => before.value.length > 0),
    isBlank,
    forget,
    elsewhere,
    take,
    keep,
  }
}
