// What others did, as far as a page has room for it.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { defineComponent } from 'vue'
import client from './client'
import { latestOfEach, useOthers } from './now'
import type { ChangeView } from './types'

const done = (id: number, person: string) => ({ id, person, action: 'did it', text: '' }) as ChangeView

it('tells the latest of each person, how much came before it, and of three persons at the most', () => {
  const changes = ['A', 'B', 'A', 'A', 'C', 'B', 'D'].map((person, i) => done(i, person))
  expect(latestOfEach(changes).map((c) => [c.id, c.person, c.before])).toEqual([
    [4, 'C', 0],
    [5, 'B', 1],
    [6, 'D', 0],
  ])
  expect(latestOfEach([])).toEqual([])
})

let lastChange = 7
let isLost = false
beforeEach(() => {
  vi.useFakeTimers()
  vi.spyOn(client, 'GET').mockImplementation((() =>
    isLost
      ? Promise.reject(new TypeError('no answer'))
      : Promise.resolve({
          data: { benches: [], last_change: lastChange, changes: [], editing: [], work: null },
          response: new Response(),
        })) as never)
})
afterEach(() => {
  vi.useRealTimers()
  vi.restoreAllMocks()
})

async function lostOnce(whileLost: () => void) {
  const queryClient = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const read = vi.fn(() => Promise.resolve(1))
  const failing = vi.fn(() => (isLost ? Promise.reject(new Error('lost')) : Promise.resolve(2)))
  const host = defineComponent({ setup: () => useOthers(), template: '<i>{{ lostSince ? "lost" : "here" }}</i>' })
  const shown = mount(host, { global: { plugins: [[VueQueryPlugin, { queryClient }]] } })
  await vi.advanceTimersByTimeAsync(2000)
  await queryClient.fetchQuery({ queryKey: ['attempts'], queryFn: read })
  isLost = true
  await queryClient.fetchQuery({ queryKey: ['unit'], queryFn: failing }).catch(() => null)
  await vi.advanceTimersByTimeAsync(2000)
  const said = shown.text()
  whileLost()
  isLost = false
  await vi.advanceTimersByTimeAsync(2000)
  const stale = (key: string) => queryClient.getQueryState([key])?.isInvalidated
  const found = { said, after: shown.text(), read: stale('attempts'), failed: stale('unit') }
  shown.unmount()
  return found
}

it('reads only what failed again where the server was not heard for a moment and nothing was changed', async () => {
  expect(await lostOnce(() => undefined)).toEqual({ said: 'lost', after: 'here', read: false, failed: true })
})

it('reads everything again where something was changed while the server was not heard', async () => {
  expect(await lostOnce(() => (lastChange = 8))).toEqual({ said: 'lost', after: 'here', read: true, failed: true })
})
