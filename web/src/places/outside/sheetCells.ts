// The cells of a unit's sheet: a load by a mode, with what was read there, as it was typed.
import type { End, GroupView, HandReading, Mode, ReadPlaceView } from '../../api/types'
import { typedNumber } from '../../kit/number'
import type { CAUSES } from '../../trade/format'

/** A reading in its cell; those past the first are of the same run, read once more. */
export interface Cell {
  key: string
  nth: number
  /** A figure of each channel (pair), in their order, as it was typed. */
  figures: string
  loaded: number | null
  amps: number | null
  /** How it ended, where it did not go all the way. */
  end: End | null
  before: number | null
  tripped: number | null
  thd_n: number | null
  /** Another tone or burst than the group's own. */
  tone: number | null
  burst: string | null
  /** Why it was read once more. */
  cause: Cause | null
  reason: string
}
export type Cause = keyof typeof CAUSES
export type Sort = 'watts' | 'volts_rms' | 'volts_peak'
export type Supply = 'held' | 'bank' | 'engine_off' | 'engine_running' | 'charger_on'
export interface SheetDraft {
  sort: Sort
  instrument: string
  accuracy: number | null
  supply: Supply
  volts: number | null
  idle_amps: number | null
  read_on: string | null
  remark: string
  cells: Cell[]
}

export const blankCell = (key: string, nth = 1): Cell => ({
  key,
  nth,
  figures: '',
  loaded: null,
  amps: null,
  end: null,
  before: null,
  tripped: null,
  thd_n: null,
  tone: null,
  burst: null,
  cause: null,
  reason: '',
})

export const BLANK_SHEET: SheetDraft = {
  sort: 'watts',
  instrument: '',
  accuracy: 1,
  supply: 'held',
  volts: null,
  idle_amps: null,
  read_on: null,
  remark: '',
  cells: [],
}

/** A row of the sheet: a group as it is loaded. */
export interface Row {
  group: GroupView
  load: number
  bridged: boolean
  places: readonly ReadPlaceView[]
}

export const rowsOf = (groups: readonly GroupView[]): Row[] =>
  groups.flatMap((group) => [
    ...group.rated_loads.map((load) => ({ group, load, bridged: false, places: group.singles })),
    ...group.bridged_loads.map((load) => ({ group, load, bridged: true, places: group.pairs })),
  ])

export const keyOf = (row: Row, mode: Mode): string =>
  `${row.group.name}/${row.load}/${row.bridged ? 'pairs' : 'each'}/${mode}`

/** What a cell holds, channel by channel; null for one that was not read. */
export type Figures = Partial<Record<Sort, (number | null)[]>>

const UNITS: Record<string, Sort> = {
  w: 'watts',
  v: 'volts_rms',
  vrms: 'volts_rms',
  vp: 'volts_peak',
  vpk: 'volts_peak',
  vpeak: 'volts_peak',
}
const UNIT = /(w|vrms|vpeak|vpk|vp|v)$/i
const UNREAD = /^[-–—]$/

/**
 * The figures of a cell, “80.5 81”, “80.5W 81W 18.1V 18.2V” or “80.5 –”; or in words what is wrong with them.
 *
 * @param sort what figures without a unit are
 */
export function figuresOf(text: string, sort: Sort, row: Row): { values: Figures } | { wrong: string } {
  const values: Figures = {}
  const parts = text.trim().replace(/(\d)\s+(?=(w|vrms|vpeak|vpk|vp|v)\b)/gi, '$1')
  let last: Sort = sort
  for (const part of parts.split(/[\s;/|]+/)) {
    if (UNREAD.test(part)) {
      ;(values[last] ??= []).push(null)
      continue
    }
    const unit = UNIT.exec(part)?.[1] ?? ''
    const typed = typedNumber(part.slice(0, part.length - unit.length))
    if ('wrong' in typed) return { wrong: `“${part.slice(0, 20)}” ${typed.wrong}.` }
    if (typed.value === null || typed.value <= 0) return { wrong: `“${part.slice(0, 20)}” is no reading.` }
    last = UNITS[unit.toLowerCase()] ?? sort
    ;(values[last] ??= []).push(typed.value)
  }
  const wanted = row.places.length
  const lists = Object.values(values)
  if (lists.every((list) => list.length === wanted) && lists.some((list) => list.some((one) => one !== null)))
    return { values }
  const many = wanted === 1 ? 'One figure' : `${wanted} figures`
  const what = `${many}${lists.length > 1 ? ' of each of W, V and Vp that is there' : ''}${wanted > 1 ? ', parted by blanks' : ''}`
  return { wrong: `${what}, of ${row.places.map((p) => p.name).join(', ')}; “–” is one that was not read.` }
}

/** A cell as the server takes it; null while it is empty or cannot be taken. */
export function readingOf(sheet: SheetDraft, cell: Cell, row: Row, mode: Mode): HandReading | null {
  const found = cell.figures.trim() ? figuresOf(cell.figures, sheet.sort, row) : { wrong: '' }
  if (!('values' in found) || sheet.volts === null || sheet.accuracy === null) return null
  const burst = mode === 'burst'
  const held = sheet.supply === 'held'
  const channels = row.places.map((_, at) =>
    Object.fromEntries(Object.entries(found.values).map(([sort, list]) => [sort, list[at] ?? null])),
  )
  return {
    run: {
      mode,
      group: row.group.name,
      load_ohms: row.load,
      bridged: row.bridged,
      tone_hz: cell.tone ?? row.group.tone_hz,
      supply_volts: sheet.volts,
      burst: burst ? (cell.burst ?? row.group.burst) : '',
    },
    channels,
    others_unread: channels.some((channel) => Object.values(channel).every((value) => value === null)),
    instrument: sheet.instrument,
    accuracy_percent: sheet.accuracy,
    loaded_volts: cell.loaded,
    amps: burst ? null : cell.amps,
    idle_amps: burst || cell.amps === null ? null : sheet.idle_amps,
    start_volts: cell.before ?? (held ? null : sheet.volts),
    policy: held ? 'held' : 'bank',
    vehicle: sheet.supply === 'held' || sheet.supply === 'bank' ? null : sheet.supply,
    end: cell.end,
    tripped_watts: cell.tripped,
    thd_n_percent: cell.thd_n,
    cause: cell.nth > 1 ? cell.cause : null,
    reason: cell.nth > 1 ? cell.reason : '',
    read_on: sheet.read_on,
    remark: sheet.remark,
    all_loaded: true,
  }
}
