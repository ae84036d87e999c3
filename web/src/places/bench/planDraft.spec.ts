import { beforeEach, expect, it } from 'vitest'
import type { PlanView, RunIn } from '../../api/types'
import { moved, usePlanDraft } from './planDraft'

const run = (load: number): RunIn => ({
  mode: 'certified',
  group: 'main',
  load_ohms: load,
  bridged: false,
  tone_hz: 1000,
  supply_volts: 14.4,
  burst: '',
})
const loads = (runs: RunIn[] | null) => runs?.map((r) => r.load_ohms)

beforeEach(() => localStorage.clear())

it('moves a run by one place and leaves the ends alone', () => {
  const runs = [run(8), run(4), run(2)]
  expect(loads(moved(runs, 1, -1))).toEqual([4, 8, 2])
  expect(loads(moved(runs, 2, 1))).toEqual([8, 4, 2])
  expect(loads(moved(runs, 0, -1))).toEqual([8, 4, 2])
  expect(loads(runs)).toEqual([8, 4, 2])
})

const of = (...runs: RunIn[]) => ({ proposed: runs })

it('undoes changes one by one, wishes among them', () => {
  const { draft, canUndo, wish, change, undo } = usePlanDraft(7)
  change(of(run(4), run(2)), [run(4)])
  change(of(run(4), run(2)), [])
  undo()
  expect(loads(draft.value.runs)).toEqual([4])
  wish('policy', 'bank')
  undo()
  expect([draft.value.policy, loads(draft.value.runs)]).toEqual(['held', [4]])
  undo()
  expect([draft.value.runs, canUndo.value]).toEqual([null, false])
  undo()
  expect(draft.value.runs).toBeNull()
})

it('another wish asks which changes by hand still apply, and takes what the server says', () => {
  const { draft, asked, wish, change, settle, undo } = usePlanDraft(7)
  wish('exploratory', true)
  expect(asked.value).toMatchObject({ exploratory: true, runs: null })
  expect(asked.value).not.toHaveProperty('edited')
  change(of(run(4), run(2)), [run(4)])
  expect(asked.value.runs).toHaveLength(1)
  wish('held_volts', 13.8)
  expect(asked.value).toMatchObject({ runs: null, edited: { proposed: [run(4), run(2)], runs: [run(4)] } })
  const lower = { ...run(4), supply_volts: 13.8 }
  settle({ runs: [{ spec: lower }], proposed: [lower] } as unknown as PlanView)
  expect([draft.value.isStale, asked.value.runs]).toEqual([false, [lower]])
  undo() // the wish with what came of it is one step
  expect([draft.value.held_volts, draft.value.runs]).toEqual([null, [run(4)]])
})

it('takes a run that came with an address, and nothing that is none', () => {
  const { draft, add } = usePlanDraft(9)
  for (const text of ['', 'null', '{"mode":"certified"}', '{']) add(text, null)
  expect(draft.value.runs).toBeNull()
  add(JSON.stringify(run(4)), 0.1)
  add(JSON.stringify(run(2)), null)
  expect([loads(draft.value.runs), draft.value.thd_n_limit]).toEqual([[4, 2], 0.1])
})

it('is there again after a reload, unit by unit, and so is its undo', () => {
  const first = usePlanDraft(7)
  first.wish('exploratory', true)
  const again = usePlanDraft(7)
  expect([again.draft.value.exploratory, usePlanDraft(8).draft.value.exploratory]).toEqual([true, false])
  again.undo()
  expect(again.draft.value.exploratory).toBe(false)
})

it('a wish of a kind that is none is dropped, and the rest stays', () => {
  const kept = { now: { policy: 7, thd_n_limit: 'abc', exploratory: true, unheard: 1 }, before: 'nonsense' }
  localStorage.setItem('rulvek.plan.7', JSON.stringify(kept))
  const { draft, canUndo } = usePlanDraft(7)
  expect(draft.value).toMatchObject({ policy: 'held', thd_n_limit: null, exploratory: true })
  expect([canUndo.value, 'unheard' in draft.value]).toEqual([false, false])
})
