import { describe, expect, it } from 'vitest'
import type { GroupView } from '../../api/types'
import { BLANK_SHEET, figuresOf, keyOf, readingOf, rowsOf } from './sheetCells'

const main = {
  name: 'main',
  channels: [1, 2],
  rated_loads: [4, 2],
  bridged_loads: [4],
  singles: [
    { name: '1', channel: 1 },
    { name: '2', channel: 2 },
  ],
  pairs: [{ name: '1 + 2', channel: 1 }],
  tone_hz: 1000,
  burst: '1 kHz',
} as unknown as GroupView
const rows = rowsOf([main])
const cell = (figures: string) => ({ key: keyOf(rows[0]!, 'certified'), figures, loaded: 14.3, amps: 21 })

describe('the rows of a sheet', () => {
  it('are the rated loads, then the pairs', () => {
    expect(rows.map((r) => [r.load, r.bridged, r.places.length])).toEqual([
      [4, false, 2],
      [2, false, 2],
      [4, true, 1],
    ])
    expect(new Set(rows.map((row) => keyOf(row, 'burst'))).size).toBe(3)
  })
})

describe('the figures of a cell', () => {
  it('are parted by blanks, strokes or semicolons, with points or commas', () => {
    for (const text of ['80.5 81', '80,5 / 81', ' 80.5;81 ', '80.5|81'])
      expect(figuresOf(cell(text), rows[0]!)).toEqual({ values: [80.5, 81] })
  })
  it('say in a sentence what is wrong with them', () => {
    expect(figuresOf(cell('80.5'), rows[0]!)).toEqual({ wrong: '2 figures, parted by blanks, of 1, 2.' })
    expect(figuresOf(cell('80.5 lots'), rows[0]!)).toEqual({ wrong: '“lots” is no number.' })
    expect(figuresOf(cell('80.5 0'), rows[0]!)).toEqual({ wrong: '“0” is no reading.' })
    expect(figuresOf(cell('1 2'), rows[2]!)).toEqual({ wrong: 'One figure, of 1 + 2.' })
  })
})

describe('a reading of a sheet', () => {
  const sheet = { ...BLANK_SHEET, volts: 14.4, instrument: 'Meter', idle_amps: -9 }
  it('is what was typed, at the tone and burst of its group', () => {
    const made = readingOf(sheet, cell('80.5 81'), rows[0]!, 'certified')!
    expect(made.run).toMatchObject({ mode: 'certified', load_ohms: 4, tone_hz: 1000, supply_volts: 14.4, burst: '' })
    expect(made).toMatchObject({ channels: [{ watts: 80.5 }, { watts: 81 }], amps: 21, idle_amps: -9 })
    const burst = readingOf({ ...sheet, sort: 'volts_peak' }, cell('25 26'), rows[0]!, 'burst')!
    expect(burst).toMatchObject({ channels: [{ volts_peak: 25 }, { volts_peak: 26 }], amps: null, idle_amps: null })
    expect(burst.run.burst).toBe('1 kHz')
  })
  it('is none while something is missing', () => {
    expect(readingOf(sheet, cell(''), rows[0]!, 'certified')).toBeNull()
    expect(readingOf({ ...sheet, volts: null }, cell('1 2'), rows[0]!, 'certified')).toBeNull()
    expect(readingOf({ ...sheet, accuracy: null }, cell('1 2'), rows[0]!, 'certified')).toBeNull()
  })
})
