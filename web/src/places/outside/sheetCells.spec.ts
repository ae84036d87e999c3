import { describe, expect, it } from 'vitest'
import type { GroupView } from '../../api/types'
import { blankCell, BLANK_SHEET, figuresOf, keyOf, readingOf, rowsOf } from './sheetCells'

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
const cell = (figures: string, more = {}) => ({
  ...blankCell(keyOf(rows[0]!, 'certified')),
  figures,
  loaded: 14.3,
  amps: 21,
  ...more,
})

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
  const [pair, , bridged] = rows
  it('are parted by blanks, strokes or semicolons, with points or commas', () => {
    for (const text of ['80.5 81', '80,5 / 81', ' 80.5;81 ', '80.5|81'])
      expect(figuresOf(text, 'watts', pair!)).toEqual({ values: { watts: [80.5, 81] } })
  })
  it('are what their unit says, in any spelling, else what the sheet says', () => {
    expect(figuresOf('18.2 18.3', 'volts_rms', pair!)).toEqual({ values: { volts_rms: [18.2, 18.3] } })
    expect(figuresOf('25.5Vp 26 vpk', 'watts', pair!)).toEqual({ values: { volts_peak: [25.5, 26] } })
    const both = { values: { watts: [80.5, 81], volts_rms: [18.1, 18.2] } }
    for (const text of ['80.5W 81W 18.1V 18.2V', '80.5 W 18.1 Vrms 81 W 18.2 Vrms', '80.5 81 18.1v 18.2v'])
      expect(figuresOf(text, 'watts', pair!)).toEqual(both)
  })
  it('leave out a channel that was not read', () => {
    expect(figuresOf('80.5 –', 'watts', pair!)).toEqual({ values: { watts: [80.5, null] } })
    expect(figuresOf('- 18.2V', 'volts_rms', pair!)).toEqual({ values: { volts_rms: [null, 18.2] } })
    expect(figuresOf('– –', 'watts', pair!)).toHaveProperty('wrong')
  })
  it('say in a sentence what is wrong with them', () => {
    const two = '2 figures, parted by blanks, of 1, 2; “–” is one that was not read.'
    const both =
      '2 figures of each of W, V and Vp that is there, parted by blanks, of 1, 2; “–” is one that was not read.'
    expect(figuresOf('80.5W 18.1V', 'watts', pair!)).toEqual({ wrong: both })
    for (const text of ['80.5', '1 2 3']) expect(figuresOf(text, 'watts', pair!)).toEqual({ wrong: two })
    expect(figuresOf('80.5 lots', 'watts', pair!)).toEqual({ wrong: '“lots” is no number.' })
    expect(figuresOf('80.5 0W', 'watts', pair!)).toEqual({ wrong: '“0W” is no reading.' })
    expect(figuresOf('80.5 mW', 'watts', pair!)).toEqual({ wrong: '“mW” is no number.' })
    expect(figuresOf('1 2', 'watts', bridged!)).toEqual({
      wrong: 'One figure, of 1 + 2; “–” is one that was not read.',
    })
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
  it('says how it ended, what it tripped at, why it was read again, and what fed it', () => {
    const more = {
      nth: 2,
      end: 'protected',
      tripped: 84.6,
      before: 12.9,
      thd_n: 0.8,
      tone: 60,
      reason: 'Contact mended',
    }
    const made = readingOf({ ...sheet, supply: 'engine_running' }, cell('80.5 –', more), rows[0]!, 'certified')!
    expect(made).toMatchObject({
      end: 'protected',
      tripped_watts: 84.6,
      start_volts: 12.9,
      thd_n_percent: 0.8,
      reason: 'Contact mended',
      policy: 'bank',
      vehicle: 'engine_running',
      others_unread: true,
      channels: [{ watts: 80.5 }, { watts: null }],
    })
    expect(made.run.tone_hz).toBe(60)
    expect(readingOf(sheet, cell('80.5 81', { reason: 'first' }), rows[0]!, 'certified')).toMatchObject({
      reason: '', // the first reading of a run is not read again
      others_unread: false,
      vehicle: null,
    })
  })
  it('is none while something is missing', () => {
    expect(readingOf(sheet, cell(''), rows[0]!, 'certified')).toBeNull()
    expect(readingOf({ ...sheet, volts: null }, cell('1 2'), rows[0]!, 'certified')).toBeNull()
    expect(readingOf({ ...sheet, accuracy: null }, cell('1 2'), rows[0]!, 'certified')).toBeNull()
  })
})
