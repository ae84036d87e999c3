import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, reactive } from 'vue'
import { useWho } from './who'
import { apart, fieldWords, useEntry, withTyped } from './useEntry'

interface Text {
  name: string
  lot: string
}
beforeEach(() => useWho().answer('Tamsin'))

/** A form on an entry that the server has at a version. */
function form(server: { number: number; entry: Text }, late = false) {
  const draft = reactive({ name: '', lot: '' })
  const done = vi.fn()
  const send = vi.fn((entry: Text, seen: number) => {
    if (seen !== server.number)
      return Promise.reject({ problem: { code: 'stale', what: 'Joren changed it meanwhile.', todo: '' } })
    server.number += 1
    server.entry = { ...entry }
    return Promise.resolve()
  })
  let made!: ReturnType<typeof useEntry<Text>>
  mount(
    defineComponent({
      setup() {
        made = useEntry<Text>(
          () => true,
          async () => {
            if (late) await new Promise((answered) => setTimeout(answered, 20))
            return { number: server.number, entry: { ...server.entry } }
          },
          (entry) => Object.assign(draft, entry),
          () => ({ ...draft }),
          send,
          done,
        )
        return () => h('div')
      },
    }),
    { global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] } },
  )
  return { draft, send, done, made }
}

describe('an entry that comes late', () => {
  it('leaves what was typed before it came, and brings the rest', async () => {
    const server = { number: 3, entry: { name: 'T2', lot: '2611' } }
    const { draft, send, made } = form(server, true)
    await flushPromises()
    draft.lot = '2700' // the answer is on its way
    await vi.waitFor(() => expect(draft.name).toBe('T2'))
    expect(draft).toEqual({ name: 'T2', lot: '2700' })
    await made.act()
    expect(send.mock.calls).toEqual([[{ name: 'T2', lot: '2700' }, 3]])
  })

  it('keeps parts of a part apart, and lists as a whole', () => {
    const start = { facts: { fan: false, note: '' }, loads: [] as number[], name: '' }
    const now = { facts: { fan: true, note: '' }, loads: [4], name: '' }
    const found = { facts: { fan: false, note: 'quiet' }, loads: [8, 2], name: 'T2' }
    expect(withTyped(start, now, found)).toEqual({ facts: { fan: true, note: 'quiet' }, loads: [4], name: 'T2' })
    expect(withTyped(start, start, found)).toEqual(found)
  })
})

describe('an entry that is changed', () => {
  it('is read when the form opens, and sent with the version that was read', async () => {
    const server = { number: 3, entry: { name: 'T2', lot: '2611' } }
    const { draft, send, done, made } = form(server)
    await flushPromises()
    expect(draft).toEqual({ name: 'T2', lot: '2611' })
    draft.lot = '2612'
    await made.act()
    expect(send.mock.calls).toEqual([[{ name: 'T2', lot: '2612' }, 3]])
    expect([done.mock.calls.length, server.number]).toEqual([1, 4])
  })

  it('shows both texts where somebody was first, and keeps mine only when I say so', async () => {
    const server = { number: 3, entry: { name: 'T2', lot: '2611' } }
    const { draft, done, made } = form(server)
    await flushPromises()
    draft.lot = '2612'
    server.number = 4
    server.entry = { name: 'T2', lot: '2699' }
    expect(await made.act()).toBe(false)
    await flushPromises()
    expect(made.differences.value).toEqual([{ field: 'lot', mine: '2612', theirs: '2699' }])
    expect([done.mock.calls.length, draft.lot]).toEqual([0, '2612']) // nothing is lost, nothing is overwritten
    made.keepMine()
    await flushPromises()
    expect([server.entry.lot, server.number, done.mock.calls.length]).toEqual(['2612', 5, 1])
  })

  it('can be taken as it stands now', async () => {
    const server = { number: 1, entry: { name: 'T2', lot: '' } }
    const { draft, made } = form(server)
    await flushPromises()
    draft.name = 'T3'
    server.number = 2
    server.entry = { name: 'T2', lot: '2699' }
    await made.act()
    await flushPromises()
    made.takeTheirs()
    expect([draft.name, draft.lot, made.problem.value, made.seen.value]).toEqual(['T2', '2699', null, 2])
  })
})

describe('words of a difference', () => {
  it('are what a person would read', () => {
    expect(fieldWords('supply_low_volts')).toBe('supply low volts')
    expect(apart({ a: true, b: [4, 2], c: '' }, { a: false, b: [4, 2], c: null })).toEqual([
      { field: 'a', mine: 'yes', theirs: 'no' },
    ])
  })
  it('of what lies deeper are told by their own names, and lists as lists', () => {
    const mine = { facts: { came: 'bought', contents: [{ what: 'Remote', count: 1 }] } }
    const theirs = { facts: { came: 'sample', contents: [{ what: 'Remote', count: 2 }] } }
    expect(apart(mine, theirs)).toEqual([
      { field: 'came', mine: 'bought', theirs: 'sample' },
      { field: 'contents', mine: 'what Remote, count 1', theirs: 'what Remote, count 2' },
    ])
  })
})
