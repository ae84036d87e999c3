// What the forms of readings from outside have in common: the run they are of, as the server takes it.
import type { GroupView, Mode, RunIn } from '../../api/types'

export interface OutsideRun {
  mode: Mode
  group: string
  load: number | ''
  load_measured: number | ''
  bridged: boolean
}

export const groupOf = (sheet: OutsideRun, groups: readonly GroupView[]): GroupView | undefined =>
  groups.find((g) => g.name === sheet.group) ?? groups[0]

/** The channels that are read: of bridged pairs the first of each. */
export function channelsRead(sheet: OutsideRun, group: GroupView | undefined): number[] {
  const channels = group?.channels ?? []
  return sheet.bridged ? channels.filter((_, i) => i % 2 === 0) : channels
}

export const channelName = (channel: number, bridged: boolean): string =>
  bridged ? `${channel} + ${channel + 1}` : String(channel)

export function runOf(sheet: OutsideRun, group: GroupView | undefined): RunIn {
  return {
    mode: sheet.mode,
    group: group?.name ?? '',
    load_ohms: sheet.load || 4,
    bridged: sheet.bridged,
    tone_hz: group?.bass ? 40 : 1000,
    supply_volts: 14.4,
    burst: sheet.mode === 'burst' ? (group?.bass ? '40 Hz' : '1 kHz') : '',
  }
}

export const number = (value: number | ''): number | null => (value === '' ? null : value)
