// Moving what waits by hand: the campaigns that go in front, in their order, as the server keeps them.
import type { QueueView } from '../../api/types'

type Day = QueueView['days'][number]

/** How many of a day's campaigns somebody put there: they are in front. */
const inFront = (day: Day) => day.slots.filter((slot) => slot.by_hand).length

/**
 * The order by hand once a campaign was moved by one place on its bench.
 *
 * What stands before it from now on stands there by hand as well; what comes after is the proposal's to say.
 */
export function movedBy(days: readonly Day[], bench: string, campaign: number, by: -1 | 1): number[] {
  return days.flatMap((day) => {
    const order = day.slots.map((slot) => slot.campaign_id)
    if (day.bench !== bench) return order.slice(0, inFront(day))
    const from = order.indexOf(campaign)
    const to = from + by
    if (from < 0 || to < 0 || to >= order.length) return order.slice(0, inFront(day))
    ;[order[from], order[to]] = [order[to]!, order[from]!]
    return order.slice(0, Math.max(inFront(day), Math.max(from, to) + 1))
  })
}

/** Whether anything is in an order by hand. */
export const isByHand = (days: readonly Day[]) => days.some((day) => inFront(day) > 0)
