import { beforeEach, expect, it } from 'vitest'
import type { RunIn } from '../../api/types'
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

it('undoes changes one by one, and a new wish proposes afresh', () => {
  const { draft, undone, wish, change, undo } = usePlanDraft(7)
  change([run(4), run(2)], [run(4)])
  change([run(4)], [])
  undo()
  expect(loads(draft.value.runs)).toEqual([4])
  undo()
  expect(loads(draft.value.runs)).toEqual([4, 2])
  undo()
  expect(loads(draft.value.runs)).toEqual([4, 2])
  change([run(4)], [])
  wish('policy', 'bank')
  expect(draft.value.runs).toBeNull()
  expect(undone.value).toEqual([])
})

it('takes a run that came with an address, and nothing that is none', () => {
  const { draft, add } = usePlanDraft(9)
  for (const text of ['', 'null', '{"mode":"certified"}', '{']) add(text)
  expect(draft.value.runs).toBeNull()
  add(JSON.stringify(run(4)))
  add(JSON.stringify(run(2)))
  expect(loads(draft.value.runs)).toEqual([4, 2])
})

it('is there again after a reload, unit by unit', async () => {
  const first = usePlanDraft(7)
  first.wish('exploratory', true)
  await Promise.resolve()
  expect(usePlanDraft(7).draft.value.exploratory).toBe(true)
  expect(usePlanDraft(8).draft.value.exploratory).toBe(false)
  first.forget()
  expect(usePlanDraft(7).draft.value.exploratory).toBe(false)
})
