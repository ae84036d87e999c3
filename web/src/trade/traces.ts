// What charts of a reading show, as figures to read and to take along.
import type { PointView, RunView } from '../api/types'
import type { Trace } from '../kit/ChartFrame.vue'
import { channelName } from './format'

/** A level sweep: a line a point, the weakest channel's watts and each channel's THD+N there. */
export function sweepTraces(
  channels: readonly number[],
  called: (channel: number) => string,
  points: readonly Pick<PointView, 'weakest_watts' | 'channels'>[],
): Trace[] {
  return [
    { head: 'Weakest', unit: 'W', values: points.map((p) => p.weakest_watts) },
    ...channels.map((one) => ({
      head: `THD+N ${called(one)}`,
      unit: '%',
      values: points.map((p) => p.channels.find((c) => c.channel === one)?.thd_n_percent ?? null),
    })),
  ]
}

export const calledIn = (run: RunView) => (channel: number) => channelName(run, channel)

export const waveTraces = (wave: { milliseconds: number[]; volts: number[] } | undefined): Trace[] => [
  { head: 'Time', unit: 'ms', values: wave?.milliseconds ?? [] },
  { head: 'Output', unit: 'V', values: wave?.volts ?? [], decimals: 4 },
]

export const spectrumTraces = (spectrum: { hz: number[]; db: number[] } | undefined): Trace[] => [
  { head: 'Frequency', unit: 'Hz', values: spectrum?.hz ?? [], decimals: 1 },
  { head: 'Level', unit: 'dB', values: spectrum?.db ?? [], decimals: 1 },
]
