// The cells of a unit's sheet: a load by a mode, with what was read there, as it was typed.
import type { GroupView, HandReading, Mode, ReadPlaceView } from '../../api/types'
import { typedNumber } from '../../kit/number'

export interface Cell {
  key: string
  /** A figure of each channel (pair), in their order, as it was typed. */
  figures: string
  loaded: number | null
  amps: number | null
}
export type Sort = 'watts' | 'volts_rms' | 'volts_peak'
export interface SheetDraft {
  sort: Sort
  instrument: string
  accuracy: number | null
  policy: 'held' | 'bank'
  volts: number | null
  idle_amps: number | null
  read_on: string | null
  remark: string
  cells: Cell[]
}

export const BLANK_SHEET: SheetDraft = {
  sort: 'watts',
  instrument: '',
  accuracy: 1,
  policy: 'held',
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

/** The figures of a cell; what is wrong with them, in words, where they cannot be taken. */
export function figuresOf(cell: Cell, row: Row): { values: number[] } | { wrong: string } {
  const texts = cell.figures.trim().split(/[\s;/|]+/)
  const values: number[] = []
  for (const text of texts) {
    const typed = typedNumber(text)
    if ('wrong' in typed) return { wrong: `“${text.slice(0, 20)}” ${typed.wrong}.` }
    if (typed.value === null || typed.value <= 0) return { wrong: `“${text.slice(0, 20)}” is no reading.` }
    values.push(typed.value)
  }
  const wanted = row.places.length
  if (values.length === wanted) return { values }
  const what = wanted === 1 ? 'one figure' : `${wanted} figures, parted by blanks`
  return { wrong: `${what[0]!.toUpperCase()}${what.slice(1)}, of ${row.places.map((p) => p.name).join(', ')}.` }
}

/** A cell as the server takes it; null while it is empty or cannot be taken. */
export function readingOf(sheet: SheetDraft, cell: Cell, row: Row, mode: Mode): HandReading | null {
  const found = cell.figures.trim() ? figuresOf(cell, row) : { wrong: '' }
  if (!('values' in found) || sheet.volts === null || sheet.accuracy === null) return null
  const burst = mode === 'burst'
  return {
    run: {
      mode,
      group: row.group.name,
      load_ohms: row.load,
      bridged: row.bridged,
      tone_hz: row.group.tone_hz,
      supply_volts: sheet.volts,
      burst: burst ? row.group.burst : '',
    },
    channels: found.values.map((value) => ({ [sheet.sort]: value })),
    instrument: sheet.instrument,
    accuracy_percent: sheet.accuracy,
    loaded_volts: cell.loaded,
    amps: burst ? null : cell.amps,
    idle_amps: burst || cell.amps === null ? null : sheet.idle_amps,
    start_volts: sheet.policy === 'bank' ? sheet.volts : null,
    policy: sheet.policy,
    read_on: sheet.read_on,
    remark: sheet.remark,
    all_loaded: true,
  }
}
