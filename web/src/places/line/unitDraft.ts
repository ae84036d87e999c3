// A unit as it is typed, and as the server takes it.
import type { Price, UnitEntry } from '../../api/types'

type Facts = UnitEntry['facts']
export interface PriceDraft {
  amount: number | null
  currency: string
  day: string | null
}
export const NO_PRICE: PriceDraft = { amount: null, currency: '', day: null }
export const priceOf = (draft: PriceDraft): Price | null =>
  draft.amount === null ? null : { amount: draft.amount, currency: draft.currency.trim().toUpperCase(), day: draft.day }
export const priceDraft = (price: Price | null | undefined): PriceDraft =>
  price ? { ...price, day: price.day ?? null } : { ...NO_PRICE }

export const CAME = (['pulled from production', 'sample', 'bought', 'returned', 'refurbished', 'on loan'] as const).map(
  (value) => ({ value, label: value }),
)
export const STATES = (['waiting', 'on the bench', 'measured', 'kept', 'sent back', 'scrapped'] as const).map(
  (value) => ({ value, label: value }),
)

export interface UnitDraft {
  serial: string
  lot: string
  revision: string
  origin: string
  received_on: string | null
  came: NonNullable<Facts['came']> | null
  from_whom: string
  price: PriceDraft
  contents: { what: string; count: number | null }[]
  missing: string
  first_power_up: string | null
  state: Facts['state']
  whereabouts: string
}
export const BLANK_UNIT: UnitDraft = {
  serial: '',
  lot: '',
  revision: '',
  origin: '',
  received_on: null,
  came: null,
  from_whom: '',
  price: NO_PRICE,
  contents: [],
  missing: '',
  first_power_up: null,
  state: 'waiting',
  whereabouts: '',
}

export const unitOf = (draft: UnitDraft): UnitEntry => ({
  serial: draft.serial,
  lot: draft.lot,
  revision: draft.revision,
  origin: draft.origin,
  received_on: draft.received_on,
  facts: {
    came: draft.came,
    from_whom: draft.from_whom,
    price_paid: priceOf(draft.price),
    contents: draft.contents.filter((one) => one.what.trim()).map((one) => ({ what: one.what, count: one.count ?? 1 })),
    missing: draft.missing,
    first_power_up: draft.first_power_up,
    state: draft.state,
    whereabouts: draft.whereabouts,
  },
})

/** A unit on record as it is typed. */
export const unitDraft = ({ facts, ...entry }: UnitEntry): UnitDraft => ({
  ...BLANK_UNIT,
  ...entry,
  received_on: entry.received_on ?? null,
  came: facts.came ?? null,
  from_whom: facts.from_whom,
  price: priceDraft(facts.price_paid),
  contents: facts.contents.map((one) => ({ ...one })),
  missing: facts.missing,
  first_power_up: facts.first_power_up ?? null,
  state: facts.state,
  whereabouts: facts.whereabouts,
})
