// Off: once or twice pressed, heard or not.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import type { EffectScope } from 'vue'
import { useSwitchOff } from './switchOff'

let scope: EffectScope
const asked = vi.fn()
beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('fetch', asked)
  asked.mockReset().mockResolvedValue({ ok: true })
  scope = effectScope()
})
afterEach(() => {
  scope.stop()
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const made = (isAnothers = false) =>
  scope.run(() =>
    useSwitchOff(
      () => 2,
      () => isAnothers,
    ),
  )!

describe('off', () => {
  it('of one’s own run goes out at once', async () => {
    const off = made()
    off.press()
    expect(off.state.value).toBe('pending')
    expect(asked).toHaveBeenCalledWith('/api/bench/off?bench=2', expect.objectContaining({ method: 'POST' }))
    await vi.advanceTimersByTimeAsync(1)
    expect(off.state.value).toBe('quiet')
  })

  it('of another person’s run asks once and acts at the second press', async () => {
    const off = made(true)
    off.press()
    expect([off.state.value, asked.mock.calls.length]).toEqual(['asking', 0])
    await vi.advanceTimersByTimeAsync(7000) // too late: it asks again
    expect(off.state.value).toBe('quiet')
    off.press()
    off.leave()
    off.press()
    expect(asked).not.toHaveBeenCalled()
    off.press()
    expect(asked).toHaveBeenCalledOnce()
  })

  it('is tried until it is heard, and says after two seconds that the supply is the way', async () => {
    asked.mockRejectedValue(new TypeError('Failed to fetch'))
    const off = made()
    off.press()
    await vi.advanceTimersByTimeAsync(1900)
    expect(off.state.value).toBe('pending')
    expect(asked.mock.calls.length).toBeGreaterThan(3)
    await vi.advanceTimersByTimeAsync(200)
    expect(off.state.value).toBe('unanswered')
    asked.mockResolvedValue({ ok: true })
    await vi.advanceTimersByTimeAsync(400)
    expect(off.state.value).toBe('quiet')
  })

  it('does not wait for an answer that never comes', async () => {
    asked.mockImplementation(
      (_path: string, init: RequestInit) =>
        new Promise((_, reject) => init.signal!.addEventListener('abort', () => reject(new Error('aborted')))),
    )
    const off = made()
    off.press()
    off.press() // one is on its way
    await vi.advanceTimersByTimeAsync(4000)
    expect(asked.mock.calls.length).toBe(3)
    expect(off.state.value).toBe('unanswered')
  })
})
