import { describe, expect, it } from 'vitest'
import type { GroupView, LayoutView } from '../../api/types'
import { BLANK_RUN, endsOf, groupOf, missingOfRun, placesRead, runOf } from './outsideRun'
import type { OutsideRun } from './outsideRun'
import { missing, proposed, rowsOf } from './recordingRows'

const layout = (kind: 'wav' | 'csv', units: string[], time: number | null): LayoutView => ({
  kind,
  columns: units.map((unit, i) => ({ name: `Column ${i + 1}`, unit, factor: unit.startsWith('m') ? 0.001 : 1 })),
  sample_rate: kind === 'wav' ? 48000 : null,
  separator: ',',
  decimal: '.',
  header_lines: 1,
  time_column: time,
  preview: [],
})

describe('what the columns of a recording are', () => {
  it('volts are the channels in turn, amps their currents, the rest is not used', () => {
    const drafts = proposed(layout('csv', ['s', 'mv', 'v', 'a', 'v'], 0), [1, 2])
    expect(drafts.map((d) => [d.quantity, d.channel])).toEqual([
      ['time', 0],
      ['output_volts', 1],
      ['output_volts', 2],
      ['output_amps', 1],
      ['', 1],
    ])
    expect(rowsOf(drafts)).toEqual([
      { column: 1, quantity: 'output_volts', channel: 1, factor: 0.001 },
      { column: 2, quantity: 'output_volts', channel: 2, factor: 1 },
      { column: 3, quantity: 'output_amps', channel: 1, factor: 1 },
    ])
  })

  it('a WAV says nothing of its volts: they must be typed', () => {
    const wav = layout('wav', ['', ''], null)
    const drafts = proposed(wav, [1])
    expect(missing(drafts, wav, null)).toBe('Say what full scale of channel 1 stands for, in volts.')
    drafts[0]!.factor = 60
    expect(missing(drafts, wav, null)).toBe('')
    drafts[0]!.quantity = 'supply_volts'
    expect(missing(drafts, wav, null)).toBe('Say which column is the output of a channel.')
    expect(rowsOf(drafts)).toEqual([{ column: 0, quantity: 'supply_volts', channel: 0, factor: 60 }])
  })

  it('a table without a time needs a rate', () => {
    const csv = layout('csv', ['v', 'v'], null)
    const drafts = proposed(csv, [1, 2])
    expect(missing(drafts, csv, null)).toContain('how many samples')
    expect(missing(drafts, csv, 96000)).toBe('')
  })
})

describe('the run that a reading from outside is of', () => {
  const groups = [
    { name: 'main', singles: [{ channel: 1, name: '1' }], pairs: [{ channel: 1, name: '1 + 2' }] },
    { name: 'bass', singles: [{ channel: 3, name: '3' }], pairs: [] },
  ] as unknown as GroupView[]
  const said: OutsideRun = {
    ...BLANK_RUN,
    group: 'bass',
    load: 2,
    tone: 55,
    held_volts: 12.6,
    mode: 'burst',
    burst: 'shaped',
  }

  it('is what was entered, field by field', () => {
    expect(runOf(said, groupOf(said, groups))).toEqual({
      mode: 'burst',
      group: 'bass',
      load_ohms: 2,
      bridged: false,
      tone_hz: 55,
      supply_volts: 12.6,
      burst: 'shaped',
      watts: null,
    })
    const steady = { ...said, mode: 'certified' as const, group: 'gone' }
    expect(runOf(steady, groupOf(steady, groups))).toMatchObject({ group: 'main', burst: '' })
    const bank = { ...said, policy: 'bank' as const, start_volts: 13.1 }
    expect(runOf(bank, groups[1])!.supply_volts).toBe(13.1)
  })

  it.each([
    ['load', 'Say which load the run was at.'],
    ['tone', 'Say which tone was played.'],
    ['burst', 'Say which burst was played.'],
    ['held_volts', 'Say at how many volts the supply was held.'],
  ])('without its %s there is none, and the form says what is missing', (field, sentence) => {
    const less = { ...said, [field]: null }
    expect([missingOfRun(less), runOf(less, groups[1])]).toEqual([sentence, null])
  })

  it('a proof holds watts that are said, and only a proof ends with them held', () => {
    const proof = { ...said, mode: 'proof' as const }
    expect(missingOfRun(proof)).toBe('Say how many watts the proof was to hold.')
    expect(runOf({ ...proof, hold_watts: 76.5 }, groups[1])).toMatchObject({ mode: 'proof', watts: 76.5, burst: '' })
    expect(runOf({ ...said, hold_watts: 76.5 }, groups[1])).toMatchObject({ mode: 'burst', watts: null })
    expect(endsOf('proof')[0]!.value).toBe('held')
    expect(endsOf('certified').map((end) => end.value)).not.toContain('held')
  })

  it('a bank is asked for the volts that it started from', () => {
    expect(missingOfRun({ ...said, policy: 'bank' })).toContain('the bank started')
  })

  it('of bridged pairs the pairs are read', () => {
    expect(placesRead({ ...said, bridged: true }, groups[0])).toEqual([{ channel: 1, name: '1 + 2' }])
    expect(placesRead(said, groups[1]).map((place) => place.name)).toEqual(['3'])
  })
})
