import { ref, watch } from 'vue'
import { stored } from '../../kit/stored'
import type { PlanIn, PlannedRunView, RunIn } from '../../api/types'

export type Draft = Omit<Required<PlanIn>, 'runs'> & { runs: RunIn[] | null }

/** Names of the burst profiles, as the method knows them. */
export const BURSTS = ['1 kHz', '40 Hz', 'shaped', '20 cycles', '8 cycles', '1 cycle']

const AFRESH: Draft = {
  modes: ['certified', 'uncertified', 'burst'],
  order: 'by_load',
  loading: 'each',
  policy: 'held',
  held_volts: null,
  tones: {},
  bursts: {},
  exploratory: false,
  dwell: 'standard',
  thd_n_limit: 1,
  bench: null,
  runs: null,
}

/**
 * What a person wishes of a unit's plan. Survives a reload; `runs` is null until somebody changes a single run, and
 * null again as soon as a wish changes, because then a new plan is proposed.
 */
export function usePlanDraft(unitId: number) {
  const key = `rulvek.plan.${unitId}`
  const draft = ref<Draft>(stored(localStorage, key, AFRESH))
  if (!Array.isArray(draft.value.runs)) draft.value.runs = null
  const undone = ref<RunIn[][]>([])
  watch(draft, (now) => localStorage.setItem(key, JSON.stringify(now)), { deep: true })

  function wish<K extends keyof Draft>(name: K, value: Draft[K]) {
    draft.value = { ...draft.value, [name]: value, runs: null }
    undone.value = []
  }

  /** Take over the runs as they stand after a change; `before` is what undoing brings back. */
  function change(before: readonly RunIn[], after: RunIn[]) {
    undone.value = [...undone.value, [...before]]
    draft.value = { ...draft.value, runs: after }
  }

  function undo() {
    const before = undone.value.at(-1)
    if (!before) return
    undone.value = undone.value.slice(0, -1)
    draft.value = { ...draft.value, runs: before }
  }

  function afresh() {
    draft.value = { ...draft.value, runs: null }
    undone.value = []
  }

  /** Add a run that came with an address: to the runs of a draft, or as the only one of a new plan. */
  function add(text: string) {
    let run: Partial<RunIn> | null = null
    try {
      run = JSON.parse(text) as Partial<RunIn> | null
    } catch {
      return // an address that somebody mangled asks for nothing
    }
    if (!run || typeof run !== 'object' || !run.mode || !run.group || !run.load_ohms || !run.supply_volts) return
    change(draft.value.runs ?? [], [...(draft.value.runs ?? []), run as RunIn])
  }

  const forget = () => localStorage.removeItem(key)

  return { draft, undone, wish, change, undo, afresh, forget, add }
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
