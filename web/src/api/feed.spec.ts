// The live feed: every step once, in order, whatever the connection does.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { enableAutoUnmount, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import api from './client'
import { useCampaignFeed } from './feed'
import type { StepView } from './types'

class FakeEventSource {
  static opened: FakeEventSource[] = []
  onopen: (() => void) | null = null
  onerror: (() => void) | null = null
  onmessage: ((message: { data: string }) => void) | null = null
  closed = false
  constructor(readonly url: string) {
    FakeEventSource.opened.push(this)
  }
  close() {
    this.closed = true
  }
  send(id: number, attempt_id: number, kind: StepView['kind'] = 'level') {
    this.onmessage?.({ data: JSON.stringify({ id, attempt_id, kind }) })
  }
}

enableAutoUnmount(afterEach)
const client = new QueryClient()
const refreshed = vi.spyOn(client, 'invalidateQueries').mockResolvedValue()

function follow(campaign = ref(1), after = ref<number | undefined>(10)) {
  let feed!: ReturnType<typeof useCampaignFeed>
  const host = defineComponent({
    setup() {
      feed = useCampaignFeed(campaign, after)
      return () => h('div')
    },
  })
  const wrapper = mount(host, { global: { plugins: [[VueQueryPlugin, { queryClient: client }]] } })
  return { feed, wrapper, campaign, after }
}

const ids = (feed: ReturnType<typeof useCampaignFeed>, attempt: number) =>
  (feed.byAttempt.value.get(attempt) ?? []).map((step) => step.id)

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('EventSource', FakeEventSource)
  FakeEventSource.opened = []
  refreshed.mockClear()
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

describe('the feed of a campaign', () => {
  it('waits until it knows what was there already, then asks for what comes after', async () => {
    const { after } = follow(ref(7), ref(undefined))
    expect(FakeEventSource.opened).toHaveLength(0)
    after.value = 41
    await vi.advanceTimersByTimeAsync(0)
    expect(FakeEventSource.opened[0]?.url).toBe('/api/campaigns/7/events?after=41')
  })

  it('shows steps together, each once and by attempt', async () => {
    const { feed } = follow()
    const source = FakeEventSource.opened[0]!
    source.send(11, 1)
    source.send(12, 1)
    source.send(12, 1) // sent again after a reconnection
    source.send(13, 2)
    expect(ids(feed, 1)).toEqual([])
    await vi.advanceTimersByTimeAsync(100)
    expect(ids(feed, 1)).toEqual([11, 12])
    expect(ids(feed, 2)).toEqual([13])
    source.send(11, 1)
    await vi.advanceTimersByTimeAsync(100)
    expect(ids(feed, 1)).toEqual([11, 12])
  })

  it('asks for the lists again only when a run begins or ends', async () => {
    follow()
    const source = FakeEventSource.opened[0]!
    source.send(11, 1, 'point')
    await vi.advanceTimersByTimeAsync(100)
    expect(refreshed).not.toHaveBeenCalled()
    source.send(12, 1, 'finished')
    await vi.advanceTimersByTimeAsync(100)
    expect(refreshed).toHaveBeenCalled()
  })

  it('says when the connection is lost and back', () => {
    const { feed } = follow()
    const source = FakeEventSource.opened[0]!
    source.onopen?.()
    expect(feed.connected.value).toBe(true)
    source.onerror?.()
    expect(feed.connected.value).toBe(false)
  })

  it('starts afresh for another campaign and closes with its page', async () => {
    const { feed, wrapper, campaign } = follow()
    FakeEventSource.opened[0]!.send(11, 1)
    campaign.value = 2
    await vi.advanceTimersByTimeAsync(100)
    expect(FakeEventSource.opened[0]!.closed).toBe(true)
    expect(feed.byAttempt.value.size).toBe(0)
    expect(FakeEventSource.opened[1]?.url).toContain('/campaigns/2/')
    wrapper.unmount()
    expect(FakeEventSource.opened[1]!.closed).toBe(true)
  })

  it('catches up with what happened before the page was opened, without doubling', async () => {
    const { feed } = follow()
    const earlier = [1, 2, 3].map((id) => ({ id, attempt_id: 1, kind: 'level' }))
    vi.spyOn(api, 'GET').mockResolvedValue({ data: earlier } as never)
    FakeEventSource.opened[0]!.send(3, 1)
    FakeEventSource.opened[0]!.send(4, 1)
    await vi.advanceTimersByTimeAsync(100)
    await feed.catchUp(1)
    expect(ids(feed, 1)).toEqual([1, 2, 3, 4])
  })

  it('does not listen while the page is hidden, and takes up where it was', async () => {
    follow()
    const [first] = FakeEventSource.opened
    first!.send(11, 1)
    const hidden = vi.spyOn(document, 'hidden', 'get').mockReturnValue(true)
    document.dispatchEvent(new Event('visibilitychange'))
    expect(first!.closed).toBe(true)
    hidden.mockReturnValue(false)
    document.dispatchEvent(new Event('visibilitychange'))
    expect(FakeEventSource.opened.map((one) => one.url)).toEqual([
      '/api/campaigns/1/events?after=10',
      '/api/campaigns/1/events?after=11',
    ])
    hidden.mockRestore()
  })
})
