// What pages of one browser share: one connection, every step for each of them, and nothing left open behind them.
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { Feeds, STAYS_MS } from './feeds'
import type { Told } from './feeds'

class FakeEventSource {
  static readonly OPEN = 1
  static readonly CLOSED = 2
  static all: FakeEventSource[] = []
  onopen: (() => void) | null = null
  onerror: (() => void) | null = null
  onmessage: ((message: { data: string; lastEventId: string }) => void) | null = null
  readyState = 0
  constructor(readonly url: string) {
    FakeEventSource.all.push(this)
  }
  close() {
    this.readyState = FakeEventSource.CLOSED
  }
  opened() {
    this.readyState = FakeEventSource.OPEN
    this.onopen?.()
  }
  send(id: number) {
    this.onmessage?.({ data: `step ${id}`, lastEventId: String(id) })
  }
  refused() {
    this.close()
    this.onerror?.()
  }
}

const ADDRESS = '/api/campaigns/7/events'
function pages(count: number) {
  return Array.from({ length: count }, () => {
    const told: Told[] = []
    return { told, postMessage: (one: Told) => void told.push(one) }
  })
}
const steps = (one: { told: Told[] }) => one.told.flatMap((told) => (told.is === 'step' ? [told.id] : []))
const open = () => FakeEventSource.all.filter((one) => one.readyState !== FakeEventSource.CLOSED)

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('EventSource', FakeEventSource)
  FakeEventSource.all = []
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

it('has one connection for all pages, each of which is told every step from where it was', () => {
  const feeds = new Feeds()
  const [first, second] = pages(2)
  feeds.ask(first!, { does: 'listen', address: ADDRESS, after: 10 })
  const [source] = FakeEventSource.all
  expect(source!.url).toBe(`${ADDRESS}?after=10`)
  source!.opened()
  ;[11, 12, 13].forEach((id) => source!.send(id))
  feeds.ask(second!, { does: 'listen', address: ADDRESS, after: 12 })
  source!.send(14)
  expect(FakeEventSource.all).toHaveLength(1)
  expect(steps(first!)).toEqual([11, 12, 13, 14])
  expect(steps(second!)).toEqual([13, 14])
  expect(second!.told[0]).toEqual({ is: 'open' })
})

it('asks again for what a page lacks that came before all that is kept', () => {
  const feeds = new Feeds()
  const [first, second] = pages(2)
  feeds.ask(first!, { does: 'listen', address: ADDRESS, after: 10 })
  FakeEventSource.all[0]!.send(11)
  feeds.ask(second!, { does: 'listen', address: ADDRESS, after: 4 })
  expect(open().map((one) => one.url)).toEqual([`${ADDRESS}?after=4`])
  ;[5, 11, 12].forEach((id) => open()[0]!.send(id))
  expect(steps(second!)).toEqual([5, 11, 12])
  expect(steps(first!)).toEqual([11, 5, 11, 12]) // a page takes each once (feed.spec.ts)
})

it('forgets what is too old to be kept, and asks for it', () => {
  const feeds = new Feeds()
  const [first, second] = pages(2)
  feeds.ask(first!, { does: 'listen', address: ADDRESS, after: 0 })
  for (let id = 1; id <= 4100; id++) FakeEventSource.all[0]!.send(id)
  feeds.ask(second!, { does: 'listen', address: ADDRESS, after: 100 })
  expect(steps(second!)).toHaveLength(4000)
  const [third] = pages(1)
  feeds.ask(third!, { does: 'listen', address: ADDRESS, after: 99 })
  expect(open().map((one) => one.url)).toEqual([`${ADDRESS}?after=99`])
})

it('closes when the last page leaves, listens elsewhere or is not heard of', () => {
  const feeds = new Feeds()
  const [first, second] = pages(2)
  feeds.ask(first!, { does: 'listen', address: ADDRESS, after: 0 })
  feeds.ask(second!, { does: 'listen', address: ADDRESS, after: 0 })
  feeds.ask(first!, { does: 'leave' })
  expect(open()).toHaveLength(1)
  feeds.ask(second!, { does: 'listen', address: '/api/campaigns/8/events', after: 0 })
  expect(open().map((one) => one.url)).toEqual(['/api/campaigns/8/events?after=0'])
  for (let round = 0; round < 10; round++) {
    vi.advanceTimersByTime(STAYS_MS)
    feeds.ask(second!, { does: 'stay' })
    feeds.sweep()
  }
  expect(open()).toHaveLength(1)
  vi.advanceTimersByTime(10 * STAYS_MS)
  feeds.sweep()
  expect(open()).toHaveLength(0)
})

it('tries again where it was refused, from the last step that it had', () => {
  const feeds = new Feeds()
  const [first] = pages(1)
  feeds.ask(first!, { does: 'listen', address: ADDRESS, after: 3 })
  FakeEventSource.all[0]!.send(4)
  FakeEventSource.all[0]!.refused()
  expect(first!.told.at(-1)).toEqual({ is: 'lost' })
  vi.advanceTimersByTime(2000)
  expect(open().map((one) => one.url)).toEqual([`${ADDRESS}?after=4`])
  feeds.ask(first!, { does: 'leave' })
  FakeEventSource.all.at(-1)!.refused()
  vi.advanceTimersByTime(9000)
  expect(FakeEventSource.all).toHaveLength(2)
})
