import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { defineComponent } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { PATIENCE_MS, useAct } from './act'
import type { ActOptions } from './act'
import { problemOf } from './problem'
import { useWho } from './who'

const refreshed = vi.fn()
function acting<R>(work: () => Promise<R>, options: ActOptions<R> = {}) {
  let made!: ReturnType<typeof useAct<[], R>>
  const queryClient = new QueryClient()
  queryClient.invalidateQueries = refreshed
  mount(
    defineComponent(() => {
      made = useAct(work, options)
      return () => null
    }),
    { global: { plugins: [[VueQueryPlugin, { queryClient }]] } },
  )
  return made
}
beforeEach(() => useWho().answer('Tamsin'))
afterEach(() => {
  vi.useRealTimers()
  refreshed.mockClear()
  localStorage.clear()
})

describe('an act', () => {
  it('is done once, however often it is pressed, and everything is read afresh', async () => {
    let answer!: (value: string) => void
    const work = vi.fn(() => new Promise<string>((resolve) => (answer = resolve)))
    const done = vi.fn()
    const { act, pending } = acting(work, { done })
    const first = act()
    expect(await act()).toBe(false)
    await vi.waitFor(() => expect(work).toHaveBeenCalledOnce())
    expect(pending.value).toBe(true)
    answer('made')
    expect(await first).toBe(true)
    expect([done.mock.calls, pending.value, refreshed.mock.calls.length]).toEqual([[['made']], false, 1])
  })

  it('says what went wrong until the next try', async () => {
    const failure = { problem: { what: 'No.', todo: 'Yes.' } }
    const work = vi.fn(() => Promise.reject(failure))
    const { act, problem } = acting(work)
    expect(await act()).toBe(false)
    expect(problemOf(problem.value).what).toBe('No.')
    work.mockImplementation(() => Promise.resolve() as never)
    await act()
    expect(problem.value).toBeNull()
  })

  it('says after two seconds that nobody answers, and takes it back when somebody does', async () => {
    vi.useFakeTimers()
    let answer!: () => void
    const { act, problem } = acting(() => new Promise<void>((resolve) => (answer = resolve)))
    const doing = act()
    await vi.advanceTimersByTimeAsync(PATIENCE_MS + 10)
    expect(problemOf(problem.value).what).toBe('The server does not answer.')
    answer()
    await doing
    expect(problem.value).toBeNull()
  })

  it('is not done once the person is signed out, but for what needs nobody', async () => {
    const work = vi.fn(() => Promise.resolve())
    useWho().leave()
    const { act } = acting(work)
    expect([await act(), work.mock.calls.length]).toEqual([false, 0])
    const nobody = acting(work, { asksWho: false })
    expect([await nobody.act(), work.mock.calls.length]).toEqual([true, 1])
  })
})
