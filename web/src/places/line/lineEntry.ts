// What is entered of the line: a model as it is typed, and as the server takes it.
import type { ModelEntry, ModelFacts } from '../../api/types'
import { typedNumber } from '../../kit/number'

/** A group of channels as it is typed; its loads parted by blanks. */
export interface GroupDraft {
  name: string
  channels: number | null
  rated: string
  bridged: string
  bass: boolean
  topology: '' | 'AB' | 'D'
  low: number | null
  high: number | null
}
export interface ModelDraft {
  name: string
  description: string
  topology: 'AB' | 'D'
  regulated: boolean
  low: number | null
  high: number | null
  sensitivity: number | null
  /** One control a line. */
  controls: string
  fuses: string
  groups: GroupDraft[]
  /** What is said of it besides what tests rest on: the other form's business, carried along here. */
  facts: ModelFacts
}

export const BLANK_FACTS: ModelFacts = {
  intended_use: '',
  life: 'current',
  regulation_known: true,
  sensitivity_low_volts: null,
  sensitivity_high_volts: null,
  linkable: null,
  fuses_external: null,
  fan: null,
  controls: [],
  terminals: [],
  length_mm: null,
  width_mm: null,
  height_mm: null,
  weight_kg: null,
  list_price: null,
  street_price: null,
}

export const BLANK_GROUP: GroupDraft = {
  name: '',
  channels: null,
  rated: '',
  bridged: '',
  bass: false,
  topology: '',
  low: null,
  high: null,
}
export const BLANK_MODEL: ModelDraft = {
  name: '',
  description: '',
  topology: 'D',
  regulated: false,
  low: 10.5,
  high: 16,
  sensitivity: 1,
  controls: '',
  fuses: '',
  groups: [{ ...BLANK_GROUP, name: 'main' }],
  facts: BLANK_FACTS,
}

/** Numbers parted by blanks, as “4 2” or “4; 2,67”; or in words what is wrong with them. */
export function numbersOf(text: string): { values: number[] } | { wrong: string } {
  const values: number[] = []
  for (const part of text.trim().split(/[\s;/|]+/)) {
    const typed = typedNumber(part.replace(/(Ω|ohms?|A)$/i, ''))
    if ('wrong' in typed) return { wrong: `“${part.slice(0, 20)}” ${typed.wrong}.` }
    if (typed.value !== null) values.push(typed.value)
  }
  return { values }
}
export const wrongOf = (text: string): string => {
  const found = numbersOf(text)
  return 'wrong' in found ? found.wrong : ''
}
const valuesOf = (text: string): number[] => {
  const found = numbersOf(text)
  return 'values' in found ? found.values : []
}

/** The model's channels, group by group, counted through. */
export function channelsOf(groups: readonly GroupDraft[]): { name: string; numbers: number[]; bass: boolean }[] {
  let next = 1
  return groups.map((group) => ({
    name: group.name.trim() || 'unnamed',
    numbers: Array.from({ length: Math.min(group.channels ?? 0, 16) }, () => next++),
    bass: group.bass,
  }))
}

/** What is still to be said, in a sentence; empty where nothing is. */
export function missingOfModel(draft: ModelDraft): string {
  if (!draft.name.trim()) return 'Give the model a name.'
  for (const group of draft.groups) {
    if (!group.name.trim()) return 'Give every group of channels a name.'
    if (!group.channels) return `Say how many channels “${group.name.trim()}” has.`
    if (wrongOf(group.rated) || wrongOf(group.bridged)) return `The loads of “${group.name.trim()}” cannot be read.`
    if (!valuesOf(group.rated).length) return `Say which loads “${group.name.trim()}” is rated for.`
  }
  if (wrongOf(draft.fuses)) return 'The fuses cannot be read.'
  if (draft.low === null || draft.high === null) return 'Say from which to which volts it works.'
  return draft.sensitivity === null ? 'Say how many volts at its input give full output.' : ''
}

export const modelOf = (draft: ModelDraft): ModelEntry => ({
  name: draft.name,
  description: draft.description,
  topology: draft.topology,
  regulated: draft.regulated,
  supply_low_volts: draft.low ?? 0,
  supply_high_volts: draft.high ?? 0,
  sensitivity_volts: draft.sensitivity ?? 0,
  test_controls: draft.controls
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean),
  fuse_amps: valuesOf(draft.fuses),
  groups: draft.groups.map((group) => ({
    name: group.name,
    channels: group.channels ?? 0,
    rated_loads: valuesOf(group.rated),
    bridged_loads: valuesOf(group.bridged),
    bass: group.bass,
    topology: group.topology,
    band_low_hz: group.low,
    band_high_hz: group.high,
  })),
  facts: draft.facts,
})

/** A model on record as it is typed. */
export const draftOf = (entry: ModelEntry): ModelDraft => ({
  name: entry.name,
  description: entry.description ?? '',
  topology: entry.topology ?? 'D',
  regulated: entry.regulated ?? false,
  low: entry.supply_low_volts ?? null,
  high: entry.supply_high_volts ?? null,
  sensitivity: entry.sensitivity_volts ?? null,
  controls: (entry.test_controls ?? []).join('\n'),
  fuses: (entry.fuse_amps ?? []).join(' '),
  groups: entry.groups.map((group) => ({
    name: group.name,
    channels: group.channels,
    rated: group.rated_loads.join(' '),
    bridged: (group.bridged_loads ?? []).join(' '),
    bass: group.bass ?? false,
    topology: group.topology,
    low: group.band_low_hz ?? null,
    high: group.band_high_hz ?? null,
  })),
  facts: { ...BLANK_FACTS, ...entry.facts },
})
