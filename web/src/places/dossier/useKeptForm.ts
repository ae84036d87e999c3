// A form of something that is kept with a model or a unit: added, or changed from the version that was seen.
import { computed } from 'vue'
import type { AnyKept, KeptKind } from '../../api/kept'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import { saysOf } from '../../kit/problem'
import { useEntry } from '../../kit/useEntry'

export interface KeptForm<V extends AnyKept, D extends object> {
  kind: KeptKind<V>
  /** The model's or the unit's number. */
  of: number
  /** What is changed; a new one is added where there is none. */
  kept?: V | null
  blank: D
  toDraft: (entry: V['entry']) => D
  toEntry: (draft: D) => V['entry']
}

/** The form is open from the beginning; `done` closes it. */
export function useKeptForm<V extends AnyKept, D extends object>(form: KeptForm<V, D>, done: () => void) {
  const { kind, of, kept } = form
  const name = kept ? `rulvek.${kind.word}-change.${kept.id}` : `rulvek.${kind.word}.${of}`
  // A copy: what is changed may come as part of a query's answer, which nobody writes to.
  const drafted = useDraft<D>(name, JSON.parse(JSON.stringify(form.blank)) as D, sessionStorage)
  const { draft } = drafted
  const finished = () => {
    drafted.forget()
    done()
  }
  const add = useAct(() => kind.add(of, form.toEntry(draft.value)), { done: finished })
  const change = useEntry<V['entry']>(
    () => !!kept,
    async () => (await kind.list(of)).find((one) => one.id === kept!.id)!,
    (entry) => (draft.value = form.toDraft(entry)),
    () => form.toEntry(draft.value),
    (entry, seen) => kind.change(kept!.id, seen, entry),
    finished,
  )
  const { act, pending, problem } = kept ? change : add
  return {
    draft,
    drafted,
    change,
    act,
    pending,
    problem,
    isNew: !kept,
    subject: computed(() => (kept ? `${kind.word}/${kept.id}` : '')),
    says: (field: string) => saysOf(problem.value, field),
  }
}
