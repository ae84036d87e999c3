import { describe, expect, it } from 'vitest'
import type { GroupView, LayoutView } from '../../api/types'
import { channelName, channelsRead, groupOf, runOf } from './outsideRun'
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
    expect(missing(drafts, wav, '')).toBe('Say what full scale of channel 1 stands for, in volts.')
    drafts[0]!.factor = 60
    expect(missing(drafts, wav, '')).toBe('')
    drafts[0]!.quantity = 'supply_volts'
    expect(missing(drafts, wav, '')).toBe('Say which column is the output of a channel.')
    expect(rowsOf(drafts)).toEqual([{ column: 0, quantity: 'supply_volts', channel: 0, factor: 60 }])
  })

  it('a table without a time needs a rate', () => {
    const csv = layout('csv', ['v', 'v'], null)
    const drafts = proposed(csv, [1, 2])
    expect(missing(drafts, csv, '')).toContain('how many samples')
    expect(missing(drafts, csv, 96000)).toBe('')
  })
})

describe('the run that a reading from outside is of', () => {
  const groups = [
    { name: 'main', channels: [1, 2, 3, 4], rated_loads: [4], bridged_loads: [4], bass: false },
    { name: 'bass', channels: [5], rated_loads: [2], bridged_loads: [], bass: true },
  ] as GroupView[]
  const sheet = { mode: 'burst' as const, group: 'bass', load: 2, load_measured: '' as const, bridged: false }

  it('a bass group is driven at 40 Hz, in its own bursts', () => {
    expect(runOf(sheet, groupOf(sheet, groups))).toMatchObject({ group: 'bass', tone_hz: 40, burst: '40 Hz' })
    const main = { ...sheet, group: 'gone', mode: 'certified' as const }
    expect(runOf(main, groupOf(main, groups))).toMatchObject({ group: 'main', tone_hz: 1000, burst: '' })
  })

  it('of bridged pairs the first channel is read', () => {
    const pairs = { ...sheet, group: 'main', bridged: true }
    expect(channelsRead(pairs, groupOf(pairs, groups))).toEqual([1, 3])
    expect(channelName(3, true)).toBe('3 + 4')
  })
})
