// A level sweep as figures: a line a point, the weakest channel's watts and each channel's THD+N there.
import type { PointView, RunView } from '../api/types'
import type { Trace } from '../kit/ChartFrame.vue'
import { channelName } from './format'

export function sweepTraces(run: RunView, points: readonly PointView[]): Trace[] {
  return [
    { head: 'Weakest', unit: 'W', values: points.map((p) => p.weakest_watts) },
    ...run.channels.map((one) => ({
      head: `THD+N ${channelName(run, one)}`,
      unit: '%',
      values: points.map((p) => p.channels.find((c) => c.channel === one)?.thd_n_percent ?? null),
    })),
  ]
}
