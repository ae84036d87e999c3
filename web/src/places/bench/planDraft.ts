// What a person wishes of a unit's plan, and what was changed in it by hand.
import { computed } from 'vue'
import type { PlanIn, PlannedRunView, PlanView, RunIn } from '../../api/types'
import { useDraft } from '../../kit/draft'

/** `runs` is null until somebody changes a single run; `proposed` is what had been proposed before that. */
export interface Draft extends Omit<Required<PlanIn>, 'runs' | 'edited'> {
  runs: RunIn[] | null
  proposed: RunIn[]
  /** A wish was changed after that: the server is to say which changes by hand still apply. */
  isStale: boolean
}

const AFRESH: Draft = {
  modes: ['certified', 'uncertified', 'burst', 'proof'],
  order: 'by_load',
  loading: 'each',
  policy: 'held',
  held_volts: null,
  tones: {},
  bursts: {},
  exploratory: false,
  dwell: 'standard',
  thd_n_limit: null,
  method: null,
  bench: null,
  runs: null,
  proposed: [],
  isStale: false,
}

/** A plan that is being made for a unit. It survives a reload, and so does its undo. */
export function usePlanDraft(unitId: number) {
  const kept = useDraft<Draft>(`rulvek.plan.${unitId}`, AFRESH)
  const { draft } = kept
  if (!Array.isArray(draft.value.runs)) draft.value.runs = null
  const { thd_n_limit: limit } = draft.value
  if (limit !== null && typeof limit !== 'number') kept.amend({ ...draft.value, thd_n_limit: null })

  /** As the server takes it. */
  const asked = computed<PlanIn>(() => {
    const { runs, proposed, isStale, ...wishes } = draft.value
    if (runs && isStale) return { ...wishes, runs: null, edited: { proposed, runs } }
    return { ...wishes, runs }
  })
  /** Wish something else; what was changed by hand is carried over as far as it still applies. */
  const wish = <K extends keyof Draft>(name: K, value: Draft[K]) =>
    kept.set({ ...draft.value, [name]: value, isStale: draft.value.runs !== null })

  /** Take over the runs as they stand after a change in the plan that is shown. */
  const change = (plan: Pick<PlanView, 'proposed'>, runs: RunIn[]) =>
    kept.set({ ...draft.value, runs, proposed: plan.proposed, isStale: false })

  /** What the server made of the changes by hand stands in their place; that is no step of its own. */
  function settle(plan: PlanView) {
    if (draft.value.isStale && draft.value.runs)
      kept.amend({ ...draft.value, runs: specs(plan.runs), proposed: plan.proposed, isStale: false })
  }
  const afresh = () => kept.set({ ...draft.value, runs: null, proposed: [], isStale: false })
  /** The usual wishes, too. */
  const reset = () => kept.set(structuredClone(AFRESH))

  /** Add runs that came with an address: to the runs of a draft, or as the only ones of a new plan. */
  function add(text: string, limit: number | null) {
    let told: unknown = null
    try {
      told = JSON.parse(text)
    } catch {
      return // an address that somebody mangled asks for nothing
    }
    const asked = (Array.isArray(told) ? told : [told]).filter(isRun)
    if (!asked.length) return
    const runs = [...(draft.value.runs ?? []), ...asked]
    kept.set({ ...draft.value, runs, ...(limit ? { thd_n_limit: limit } : {}) })
  }

  return { ...kept, asked, wish, change, settle, afresh, reset, add }
}

function isRun(told: unknown): told is RunIn {
  const run = told as Partial<RunIn> | null
  return !!run && typeof run === 'object' && !!run.mode && !!run.group && !!run.load_ohms && !!run.supply_volts
}

/** A run one place up or down; the same list where there is no such place. */
export function moved(runs: readonly RunIn[], from: number, by: 1 | -1): RunIn[] {
  const to = from + by
  if (to < 0 || to >= runs.length) return [...runs]
  const next = [...runs]
  ;[next[from], next[to]] = [next[to]!, next[from]!]
  return next
}

export const specs = (runs: readonly PlannedRunView[]): RunIn[] => runs.map((run) => ({ ...run.spec }))
