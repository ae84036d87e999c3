import type { ClaimView, End, ReachView, VerdictKind } from '../api/types'

const MINUS = '−'

/** A figure with so many decimals, a true minus sign, or a dash where there is none. */
export function figure(value: number | null | undefined, decimals: number): string {
  if (value === null || value === undefined) return '–'
  return value.toFixed(decimals).replace('-', MINUS)
}

/** Watts with a precision that suits their size. */
export function watts(value: number | null | undefined): string {
  if (value === null || value === undefined) return '–'
  return figure(value, value < 10 ? 2 : value < 200 ? 1 : 0)
}

/** An uncertainty, in two significant figures. */
export function spread(value: number | null | undefined): string {
  if (value === null || value === undefined) return '–'
  return figure(value, value < 1 ? 2 : value < 10 ? 1 : 0)
}

/** What the first uncertainty holds; stands wherever ± U is shown. */
export const U_HOLDS = '± U: k = 2, from the level bracket and the load only'

export function percent(value: number | null | undefined): string {
  if (value === null || value === undefined) return '–'
  return figure(value, value < 0.1 ? 3 : value < 10 ? 2 : 1)
}

export const ohms = (value: number): string => `${value} Ω`

const WHEN = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
export const moment = (iso: string): string => WHEN.format(new Date(iso))
export const day = (iso: string): string => DAY.format(new Date(iso))

export const VERDICT_WORDS: Record<VerdictKind, string> = {
  backed: 'Backed',
  too_close: 'Too close to call',
  short: 'Short',
  backed_above_rated_voltage_only: 'Backed above rated voltage only',
  estimated: 'Estimated',
  conflicts: 'Conflicts',
  no_evidence: 'No evidence',
}

export const END_WORDS: Record<End, string> = {
  limit: 'at the limit',
  clip: 'visible clipping',
  no_more_output: 'no more output',
  protected: 'protection tripped',
  recovering: 'trips and recovers',
  input_exhausted: 'input exhausted',
  supply_low: 'supply too low',
  too_hot: 'too hot',
  operator: 'stopped by operator',
  link_lost: 'link lost',
}

/** “2 Ω bridged”. */
export const place = (at: { load_ohms: number; bridged: boolean }): string =>
  `${ohms(at.load_ohms)}${at.bridged ? ' bridged' : ''}`

/** A claim's conditions in one line, saying which are not stated. */
export function conditions(claim: ClaimView): string {
  const parts = [
    claim.supply_volts === null ? 'no voltage' : `${claim.supply_volts} V`,
    claim.thd_n_percent === null ? 'no THD+N limit' : `≤ ${claim.thd_n_percent} % THD+N`,
    claim.band_low_hz === null || claim.band_high_hz === null
      ? 'no band'
      : `${claim.band_low_hz}–${claim.band_high_hz} Hz`,
  ]
  return parts.join(' · ')
}

/** What a reach bar says, for those who do not see it. */
export function reachInWords(reach: ReachView): string {
  const measured =
    reach.certified_watts === null
      ? 'not tested'
      : `certified ${watts(reach.certified_watts)} W ± ${spread(reach.expanded_watts)} W`
  const claims = reach.notches.map(
    (notch) => `claim ${notch.watts} W, ${notch.document}: ${VERDICT_WORDS[notch.verdict].toLowerCase()}`,
  )
  return [`${reach.group}, ${place(reach)}: ${measured}`, ...claims].join('; ')
}
