// What the forms of readings from outside have in common: the run that they are of, as it was entered.
import type { End, GroupView, Mode, ReadPlaceView, RunIn } from '../../api/types'
import { END_WORDS } from '../../trade/format'

export interface OutsideRun {
  mode: Mode | null
  group: string | null
  load: number | null
  load_measured: number | null
  bridged: boolean
  tone: number | null
  burst: string | null
  /** What a proof was to hold, on each channel. */
  hold_watts: number | null
  policy: 'held' | 'bank' | null
  held_volts: number | null
  start_volts: number | null
  end: End | null
  read_on: string | null
}

export const BLANK_RUN: OutsideRun = {
  mode: 'certified',
  group: null,
  load: null,
  load_measured: null,
  bridged: false,
  tone: null,
  burst: null,
  hold_watts: null,
  policy: 'held',
  held_volts: null,
  start_volts: null,
  end: null,
  read_on: null,
}

export const MODES = [
  { value: 'certified', label: 'Certified' },
  { value: 'uncertified', label: 'Uncertified' },
  { value: 'burst', label: 'Burst' },
] as const
export const MODES_AND_PROOF = [...MODES, { value: 'proof', label: 'Proof' }] as const
export const POLICIES = [
  { value: 'held', label: 'Held' },
  { value: 'bank', label: 'Floating bank' },
] as const
/** A vehicle's own supply floats like a bank; what charges it feeds the amplifier, too. */
export const VEHICLES = [
  { value: 'engine_off', label: 'Vehicle, engine off' },
  { value: 'engine_running', label: 'Vehicle, engine running' },
  { value: 'charger_on', label: 'Vehicle, charger on' },
] as const
/** How a run can end that a person has watched; the others are the program's to tell. */
const WATCHED: readonly End[] = [
  'limit',
  'clip',
  'no_more_output',
  'protected',
  'recovering',
  'input_exhausted',
  'supply_low',
  'too_hot',
  'operator',
]
const choice = (end: End) => ({ value: end, label: END_WORDS[end] })
/** How a run can have ended: only a proof holds what it was to hold. */
export const endsOf = (mode: Mode | null) => (mode === 'proof' ? ['held' as const, ...WATCHED] : WATCHED).map(choice)

export const groupOf = (sheet: OutsideRun, groups: readonly GroupView[]): GroupView | undefined =>
  groups.find((g) => g.name === sheet.group) ?? groups[0]

/** What is read of a group: its channels, or its bridged pairs. */
export const placesRead = (sheet: OutsideRun, group: GroupView | undefined): ReadPlaceView[] =>
  (sheet.bridged ? group?.pairs : group?.singles) ?? []

/** What is still to be said of the run, in a sentence; empty where nothing is. */
export function missingOfRun(sheet: OutsideRun): string {
  if (!sheet.load) return 'Say which load the run was at.'
  if (!sheet.tone) return 'Say which tone was played.'
  if (sheet.mode === 'burst' && !sheet.burst) return 'Say which burst was played.'
  if (sheet.mode === 'proof' && !sheet.hold_watts) return 'Say how many watts the proof was to hold.'
  if (sheet.policy === 'bank' && !sheet.start_volts) return 'Say from how many volts the bank started.'
  if (sheet.policy !== 'bank' && !sheet.held_volts) return 'Say at how many volts the supply was held.'
  return ''
}

/** The run as it was entered; null while something of it is missing. */
export function runOf(sheet: OutsideRun, group: GroupView | undefined): RunIn | null {
  const volts = sheet.policy === 'bank' ? sheet.start_volts : sheet.held_volts
  if (missingOfRun(sheet) || !group || !sheet.mode || !sheet.load || !sheet.tone || !volts) return null
  return {
    mode: sheet.mode,
    group: group.name,
    load_ohms: sheet.load,
    bridged: sheet.bridged,
    tone_hz: sheet.tone,
    supply_volts: volts,
    burst: sheet.mode === 'burst' ? (sheet.burst ?? '') : '',
    watts: sheet.mode === 'proof' ? sheet.hold_watts : null,
  }
}
