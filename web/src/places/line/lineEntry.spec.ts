import { describe, expect, it } from 'vitest'
import {
  BLANK_FACTS,
  BLANK_GROUP,
  BLANK_MODEL,
  channelsOf,
  draftOf,
  missingOfModel,
  modelOf,
  numbersOf,
} from './lineEntry'

const main = { ...BLANK_GROUP, name: 'main', channels: 4, rated: '4 2', bridged: '4' }
const bass = { ...BLANK_GROUP, name: 'bass', channels: 1, rated: '2Ω', bass: true }
const draft = { ...BLANK_MODEL, name: 'Tern 5', groups: [main, bass] }

describe('a model that is entered', () => {
  it('has loads parted by blanks, with or without their unit', () => {
    expect(numbersOf(' 4 2 ')).toEqual({ values: [4, 2] })
    expect(numbersOf('4Ω; 2,67 Ω')).toEqual({ values: [4, 2.67] })
    expect(numbersOf('')).toEqual({ values: [] })
    expect(numbersOf('4 many')).toEqual({ wrong: '“many” is no number.' })
  })
  it('counts its channels through its groups', () => {
    expect(channelsOf([main, bass])).toEqual([
      { name: 'main', numbers: [1, 2, 3, 4], bass: false },
      { name: 'bass', numbers: [5], bass: true },
    ])
    expect(channelsOf([BLANK_GROUP])).toEqual([{ name: 'unnamed', numbers: [], bass: false }])
  })
  it('goes to the server as it was typed, a control a line', () => {
    const made = modelOf({ ...draft, controls: 'gain at 2 V\n\n low-pass off ', fuses: '40A 40A' })
    expect(made.groups).toEqual([
      {
        name: 'main',
        channels: 4,
        rated_loads: [4, 2],
        bridged_loads: [4],
        bass: false,
        topology: '',
        band_low_hz: null,
        band_high_hz: null,
      },
      {
        name: 'bass',
        channels: 1,
        rated_loads: [2],
        bridged_loads: [],
        bass: true,
        topology: '',
        band_low_hz: null,
        band_high_hz: null,
      },
    ])
    expect(made).toMatchObject({ test_controls: ['gain at 2 V', 'low-pass off'], fuse_amps: [40, 40] })
  })
  it('says what is missing, one thing after the other', () => {
    expect(missingOfModel(draft)).toBe('')
    expect(missingOfModel({ ...draft, name: ' ' })).toBe('Give the model a name.')
    expect(missingOfModel({ ...draft, groups: [{ ...main, name: '' }] })).toBe('Give every group of channels a name.')
    expect(missingOfModel({ ...draft, groups: [{ ...main, channels: null }] })).toContain('how many channels “main”')
    expect(missingOfModel({ ...draft, groups: [{ ...main, rated: '' }] })).toContain('rated for')
    expect(missingOfModel({ ...draft, groups: [{ ...main, bridged: 'x' }] })).toContain('cannot be read')
    expect(missingOfModel({ ...draft, fuses: 'two' })).toBe('The fuses cannot be read.')
    expect(missingOfModel({ ...draft, high: null })).toContain('volts')
    expect(missingOfModel({ ...draft, sensitivity: null })).toContain('input')
  })
})

describe('a model on record', () => {
  it('a model on record is typed as it was entered', () => {
    const entry = {
      name: 'Two',
      description: '',
      topology: 'AB' as const,
      regulated: true,
      supply_low_volts: 11,
      supply_high_volts: 15.5,
      sensitivity_volts: 0.8,
      test_controls: ['Low-pass off', 'Gain to 1 V'],
      fuse_amps: [40, 40],
      groups: [
        {
          name: 'main',
          channels: 2,
          rated_loads: [4, 2.67],
          bridged_loads: [4],
          bass: false,
          topology: '' as const,
          band_low_hz: 20,
          band_high_hz: 160,
        },
      ],
      facts: { ...BLANK_FACTS, fan: true },
    }
    expect(modelOf(draftOf(entry))).toEqual(entry)
  })
})
