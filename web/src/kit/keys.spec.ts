import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import type { EffectScope } from 'vue'
import { keysNow, nameOf, useKeys, useLayer } from './keys'

let scope: EffectScope
beforeEach(() => {
  scope = effectScope()
  document.body.innerHTML =
    '<main><button id="b">Off</button><a id="a" href="#x">There</a><input id="i" /><p id="p" tabindex="-1">Text</p></main>'
})
afterEach(() => scope.stop())

function press(key: string, on: Element = document.body, more: KeyboardEventInit = {}) {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more })
  on.dispatchEvent(event)
  return event
}
const at = (id: string) => document.getElementById(id)!

describe('keys', () => {
  it('act from the page itself, once for a held key', () => {
    const act = vi.fn()
    scope.run(() => useKeys([{ key: 'Space', act }]))
    press(' ')
    press(' ', at('p'))
    const held = press(' ', document.body, { repeat: true })
    expect(act).toHaveBeenCalledTimes(2)
    expect(held.defaultPrevented).toBe(true) // nor does the page scroll
  })

  it('leave a focused control what it does itself', () => {
    const act = vi.fn()
    scope.run(() =>
      useKeys([
        { key: 'Space', act },
        { key: 'Enter', act },
      ]),
    )
    for (const id of ['b', 'a', 'i'])
      for (const key of [' ', 'Enter']) expect(press(key, at(id)).defaultPrevented).toBe(false)
    expect(act).not.toHaveBeenCalled()
    // Held, a button would press itself again and again.
    expect(press('Enter', at('b'), { repeat: true }).defaultPrevented).toBe(true)
    expect(press('a', at('i'), { repeat: true }).defaultPrevented).toBe(false)
  })

  it('are letters in a field, but for what always works', () => {
    const [letter, off] = [vi.fn(), vi.fn()]
    scope.run(() =>
      useKeys([
        { key: 'r', act: letter },
        { key: 'Escape', act: off, always: true },
      ]),
    )
    press('r', at('i'))
    press('Escape', at('i'))
    expect([letter.mock.calls.length, off.mock.calls.length]).toEqual([0, 1])
    press('r', at('b')) // a button makes nothing of a letter
    expect(letter).toHaveBeenCalledOnce()
  })

  it('rest under an open layer, but for what always works', async () => {
    const [letter, off] = [vi.fn(), vi.fn()]
    const open = ref(true)
    scope.run(() => {
      useLayer(open, () => (open.value = false))
      useKeys([
        { key: 'r', act: letter },
        { key: 'Escape', act: off, always: true },
      ])
    })
    press('r')
    press('Escape')
    expect([letter.mock.calls.length, off.mock.calls.length]).toEqual([0, 1])
    open.value = false
    await nextTick()
    press('r')
    expect(letter).toHaveBeenCalledOnce()
  })

  it('close what lies on top at Escape, wherever the focus is, but for a key that always works', async () => {
    const [under, over] = [ref(true), ref(true)]
    let powered = true
    const off = vi.fn(() => (powered = false))
    scope.run(() => {
      useKeys([{ key: 'Escape', act: off, always: true, when: () => powered }])
      for (const open of [under, over]) useLayer(open, () => (open.value = false))
    })
    await nextTick()
    press('Escape', at('b'))
    expect([off.mock.calls.length, under.value, over.value]).toEqual([1, true, true])
    press('Escape')
    await nextTick()
    expect([under.value, over.value]).toEqual([true, false])
    press('Escape', at('i'))
    await nextTick()
    expect(under.value).toBe(false)
    expect(press('Escape').defaultPrevented).toBe(false)
  })

  it('go to whoever came last and can act, and to nobody after its end', () => {
    const [first, second] = [vi.fn(), vi.fn()]
    let can = true
    scope.run(() => useKeys([{ key: 'n', does: 'next', act: first }]))
    const inner = effectScope()
    inner.run(() => useKeys([{ key: 'n', does: 'newer', act: second, when: () => can }]))
    press('n')
    can = false
    press('n')
    expect([first.mock.calls.length, second.mock.calls.length]).toEqual([1, 1])
    expect(keysNow().map((one) => one.does)).toEqual(['newer', 'next'])
    inner.stop()
    scope.stop()
    expect(press('n').defaultPrevented).toBe(false)
    expect(keysNow()).toEqual([])
  })

  it('are named with what is held', () => {
    const named = (key: string, more: KeyboardEventInit = {}) => nameOf(new KeyboardEvent('keydown', { key, ...more }))
    expect(named(' ')).toBe('Space')
    expect(named('N')).toBe('n') // caps lock
    expect(named('D', { shiftKey: true })).toBe('Shift+D')
    expect(named('?', { shiftKey: true })).toBe('?')
    expect(named('k', { metaKey: true })).toBe('Ctrl+k')
    expect(named('Enter', { ctrlKey: true })).toBe('Ctrl+Enter')
    expect(named('ArrowDown', { altKey: true })).toBe('Alt+ArrowDown')
  })
})
