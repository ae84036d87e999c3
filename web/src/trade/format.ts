import { figure, withSpread } from '../kit/quantity'
import type { ClaimView, End, Mode, ReachView, RunView, VerdictKind } from '../api/types'

/** Watts: to the place of their U's second digit, or with a precision that suits their size where no U is known. */
export function watts(value: number | null | undefined, expanded?: number | null): string {
  if (value === null || value === undefined) return '–'
  return withSpread(value, expanded)?.value ?? figure(value, value < 10 ? 2 : value < 200 ? 1 : 0)
}

/** An expanded uncertainty, in two significant digits. */
export const spread = (value: number | null | undefined): string => (value ? withSpread(0, value)!.spread : '–')

/** What ± U means; stands wherever it is shown. */
export const U_HOLDS = '± U at 95 %, from the budget on each run’s page'

export function percent(value: number | null | undefined): string {
  if (value === null || value === undefined) return '–'
  return figure(value, value < 0.1 ? 3 : value < 10 ? 2 : 1)
}

export const ohms = (value: number): string => `${value} Ω`

const WHEN = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
/** Day and time; of former years the day with its year. */
export function moment(iso: string): string {
  const at = new Date(iso)
  return (at.getFullYear() === new Date().getFullYear() ? WHEN : DAY).format(at)
}
/** A day; of a date without a time it is that date in every time zone. */
export function day(iso: string): string {
  const [, year, month, date] = /^(\d{4})-(\d{2})-(\d{2})$/.exec(iso) ?? []
  return DAY.format(year ? new Date(Number(year), Number(month) - 1, Number(date)) : new Date(iso))
}

export const VERDICT_WORDS: Record<VerdictKind, string> = {
  backed: 'Backed',
  too_close: 'Too close to call',
  short: 'Short',
  backed_at_one_tone_only: 'Backed at one tone only',
  backed_above_rated_voltage_only: 'Backed above rated voltage only',
  estimated: 'Estimated',
  conflicts: 'Conflicts',
  no_evidence: 'No evidence',
}

export const END_WORDS: Record<End, string> = {
  limit: 'at the limit',
  held: 'held what is claimed',
  clip: 'visible clipping',
  no_more_output: 'no more output',
  protected: 'protection tripped',
  recovering: 'trips and recovers',
  input_exhausted: 'input exhausted',
  supply_low: 'supply too low',
  too_hot: 'too hot',
  operator: 'stopped by operator',
  link_lost: 'link lost',
  not_recorded: 'could not be recorded',
}

export const MODE_WORDS: Record<Mode, string> = {
  certified: 'Certified',
  uncertified: 'Uncertified',
  burst: 'Burst',
  proof: 'Proof',
}

export const POLICY_WORDS = { held: 'held', bank: 'floating bank', three_points: 'three points' } as const

/** Why a run is repeated. */
export const CAUSES = {
  started_badly: 'Started badly',
  supply_low: 'Supply was low',
  connection: 'A connection was wrong',
  gains: 'Gains were not matched',
  protection: 'Protection tripped',
  other: 'Other',
} as const

/** Minutes as people say them. */
export function minutes(value: number | null | undefined): string {
  if (value === null || value === undefined) return '–'
  if (value < 1) return '< 1 min'
  return value < 90 ? `${Math.round(value)} min` : `${figure(value / 60, 1)} h`
}

/** “1 + 2” of a pair, “3” of a channel. */
export const channelNames = (channels: readonly number[]): string => channels.join(' + ')

/** “1, 2, 3, 4 and 5 into 4 Ω”, “1 + 2 and 3 + 4 into 4 Ω; 5 into 2 Ω”. */
export function wiringInWords(connections: readonly { channels: readonly number[]; ohms: number }[]): string {
  const byLoad = new Map<string, string[]>()
  for (const link of connections) {
    const load = `${link.channels.length > 1 ? 'bridged ' : ''}into ${ohms(link.ohms)}`
    byLoad.set(load, [...(byLoad.get(load) ?? []), channelNames(link.channels)])
  }
  return [...byLoad]
    .map(([load, names]) => `${[names.slice(0, -1).join(', '), names.at(-1)].filter(Boolean).join(' and ')} ${load}`)
    .join('; ')
}

/** “3” of a channel, “1 + 2” of a pair that goes by its first one. */
export const channelName = (run: RunView, channel: number): string =>
  run.channel_names[run.channels.indexOf(channel)] ?? String(channel)

/** Decibels with their sign. */
export function decibels(value: number | null | undefined, decimals = 2): string {
  if (value === null || value === undefined) return '–'
  const text = figure(value, decimals)
  return value > 0 && Number(value.toFixed(decimals)) !== 0 ? `+${text}` : text
}

/** “20 kHz”, “40 Hz”. */
export const hertz = (value: number): string => {
  const kilo = value >= 1000
  return `${Number((kilo ? value / 1000 : value).toFixed(3))} ${kilo ? 'kHz' : 'Hz'}`
}

/** “2 Ω bridged”. */
export const place = (at: { load_ohms: number; bridged: boolean }): string =>
  `${ohms(at.load_ohms)}${at.bridged ? ' bridged' : ''}`

/** A claim's conditions in one line, saying which are not stated. */
export function conditions(claim: ClaimView): string {
  const { supply_volts: low, supply_high_volts: high } = claim
  const parts = [
    ...(claim.load_stated ? [] : ['no load']),
    ...(claim.total_of === null ? [] : [`${claim.watts} W in all of ${claim.total_of}`]),
    ...(claim.driven_channels === null ? [] : [`${claim.driven_channels} driven`]),
    ...(claim.linked ? ['two linked units'] : []),
    low === null ? 'no voltage' : high === null ? `${low} V` : `${low} to ${high} V`,
    claim.thd_n_percent === null ? 'no THD+N limit' : `≤ ${claim.thd_n_percent} % THD+N`,
    claim.band_low_hz === null || claim.band_high_hz === null
      ? 'no band'
      : claim.band_low_hz === claim.band_high_hz
        ? `${claim.band_low_hz} Hz`
        : `${claim.band_low_hz}–${claim.band_high_hz} Hz`,
  ]
  return parts.join(' · ')
}

/** What a reach bar says, for those who do not see it. */
export function reachInWords(reach: ReachView): string {
  const measured =
    reach.certified_watts === null
      ? 'not tested'
      : `certified ${watts(reach.certified_watts, reach.expanded_watts)} W ± ${spread(reach.expanded_watts)} W`
  const beyond = [
    ...(reach.uncertified_watts === null ? [] : [`uncertified ${watts(reach.uncertified_watts)} W`]),
    ...(reach.burst_watts === null ? [] : [`burst ${watts(reach.burst_watts)} W at the onset of clipping`]),
  ]
  const claims = reach.notches.map(
    (notch) => `claim ${notch.watts} W, ${notch.document}: ${VERDICT_WORDS[notch.verdict].toLowerCase()}`,
  )
  return [`${reach.group}, ${place(reach)}: ${measured}`, ...beyond, ...claims].join('; ')
}

/** What a bundle is for, wherever one is saved. */
export const BUNDLE = 'All of it for another lab, in one file: figures, waveforms, documents, photographs'

/** “1 file”, “3 files”. */
export const counted = (count: number, what: string): string => `${count} ${what}${count === 1 ? '' : 's'}`
