import { describe, expect, it } from 'vitest'
import type { UnitEntry } from '../../api/types'
import { BLANK_UNIT, priceDraft, priceOf, unitDraft, unitOf } from './unitDraft'

const ENTRY: UnitEntry = {
  serial: 'TN-1',
  lot: '2611',
  revision: 'B',
  origin: 'no fault found',
  received_on: '2026-11-20',
  facts: {
    came: 'returned',
    from_whom: 'A shop',
    price_paid: { amount: 329, currency: 'EUR', day: '2026-02-20' },
    contents: [{ what: 'Remote', count: 2 }],
    missing: 'One fuse',
    first_power_up: null,
    state: 'kept',
    whereabouts: 'Shelf 3',
  },
}

describe('a unit on record', () => {
  it('is typed as it was entered, and goes back as it was', () => {
    expect(unitOf(unitDraft(ENTRY))).toEqual(ENTRY)
  })
  it('shares nothing with what it was made from', () => {
    const draft = unitDraft(ENTRY)
    draft.contents[0]!.count = 9
    draft.price.amount = 1
    expect(ENTRY.facts.contents[0]!.count).toBe(2)
    expect(ENTRY.facts.price_paid!.amount).toBe(329)
  })
})

describe('a unit as it is typed', () => {
  it('leaves out rows that nobody filled in, and counts one where nobody counted', () => {
    const contents = [
      { what: ' ', count: 3 },
      { what: 'Remote', count: null },
    ]
    expect(unitOf({ ...BLANK_UNIT, serial: 'x', contents }).facts.contents).toEqual([{ what: 'Remote', count: 1 }])
  })
  it('has a price only where there is an amount; a currency is written in capitals', () => {
    expect(priceOf({ amount: null, currency: 'eur', day: null })).toBeNull()
    expect(priceOf({ amount: 5, currency: ' eur ', day: null })).toEqual({ amount: 5, currency: 'EUR', day: null })
    expect(priceDraft(null)).toEqual({ amount: null, currency: '', day: null })
  })
})
