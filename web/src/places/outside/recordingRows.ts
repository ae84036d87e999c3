// What each column of a recording is: proposed from its unit and place, changed by hand, sent as the server takes it.
import type { LayoutView, ColumnUse } from '../../api/types'

export type Quantity = ColumnUse['quantity'] | 'time' | ''
export interface ColumnDraft {
  quantity: Quantity | null
  channel: number | null
  factor: number | null
}

export const QUANTITY_WORDS: Record<Quantity, string> = {
  '': 'not used',
  time: 'time',
  output_volts: 'output, V',
  output_amps: 'output current, A',
  input_volts: 'input, V',
  supply_volts: 'supply, V',
  supply_amps: 'supply current, A',
}

export const ofChannel = (quantity: Quantity | null) => quantity === 'output_volts' || quantity === 'output_amps'

/** Columns in volts are the outputs of the channels in turn, columns in amps their currents; the rest is not used. */
export function proposed(layout: LayoutView, channels: readonly number[]): ColumnDraft[] {
  let volts = 0
  let amps = 0
  return layout.columns.map((column, index) => {
    if (index === layout.time_column) return { quantity: 'time', channel: 0, factor: column.factor }
    const current = column.unit === 'a' || column.unit === 'ma'
    const channel = channels[current ? amps++ : volts++]
    if (channel === undefined) return { quantity: '', channel: channels[0] ?? 1, factor: column.factor }
    // A WAV's full scale is unknown to it: the volts are to be typed.
    const factor = layout.kind === 'wav' ? null : column.factor
    return { quantity: current ? 'output_amps' : 'output_volts', channel, factor }
  })
}

export function rowsOf(columns: readonly ColumnDraft[]): ColumnUse[] {
  return columns.flatMap((c, column) =>
    c.quantity && c.quantity !== 'time' && c.factor !== null
      ? [{ column, quantity: c.quantity, channel: ofChannel(c.quantity) ? (c.channel ?? 0) : 0, factor: c.factor }]
      : [],
  )
}

/** What is still to be said before it can be read, or nothing. */
export function missing(columns: readonly ColumnDraft[], layout: LayoutView, rate: number | null): string {
  if (!columns.some((c) => c.quantity === 'output_volts')) return 'Say which column is the output of a channel.'
  const open = columns.findIndex((c) => c.quantity && c.quantity !== 'time' && !c.factor)
  if (open >= 0 && layout.kind === 'wav') return `Say what full scale of channel ${open + 1} stands for, in volts.`
  if (open >= 0) return `Say what makes volts or amps of column ${open + 1}.`
  if (layout.sample_rate === null && rate === null && !columns.some((c) => c.quantity === 'time'))
    return 'Say which column is the time, or how many samples there are in a second.'
  return ''
}
