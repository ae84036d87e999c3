import { describe, expect, it } from 'vitest'
import type { QueueView } from '../../api/types'
import { isByHand, movedBy } from './todayOrder'

type Day = QueueView['days'][number]
const day = (bench: string, ids: number[], byHand = 0) =>
  ({ bench, slots: ids.map((campaign_id, at) => ({ campaign_id, by_hand: at < byHand })) }) as unknown as Day

describe('an order by hand', () => {
  const days = [day('Bench 1', [1, 2, 3, 4]), day('Bench 2', [5, 6], 1)]
  it('holds what was moved and all before it', () => {
    expect(movedBy(days, 'Bench 1', 3, -1)).toEqual([1, 3, 2, 5])
    expect(movedBy(days, 'Bench 1', 1, 1)).toEqual([2, 1, 5])
  })
  it('leaves the other benches as they were', () => {
    expect(movedBy(days, 'Bench 2', 6, -1)).toEqual([6, 5])
  })
  it('does nothing at either end, nor to what waits no longer', () => {
    expect(movedBy(days, 'Bench 1', 1, -1)).toEqual([5])
    expect(movedBy(days, 'Bench 2', 6, 1)).toEqual([5])
    expect(movedBy(days, 'Bench 1', 99, 1)).toEqual([5])
  })
  it('is told apart from the proposal', () => {
    expect(isByHand(days)).toBe(true)
    expect(isByHand([days[0]!])).toBe(false)
  })
})
