import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, reactive } from 'vue'
import { useWho } from '../../kit/who'
import { draftOf, modelOf } from './lineEntry'
import { apart, fieldWords, useEntry } from './useEntry'

interface Text {
  name: string
  lot: string
}
beforeEach(() => useWho().answer('Tamsin'))

/** A form on an entry that the server has at a version. */
function form(server: { number: number; entry: Text }) {
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
          () => Promise.resolve({ number: server.number, entry: { ...server.entry } }),
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
  it('a model on record is typed as it was entered', () => {
    const entry = {
      name: 'Two',
      description: '',
      topology: 'AB' as const,
      regulated: true,
      supply_low_volts: 11,
      supply_high_volts: 15.5,
      sensitivity_volts: 0.8,
      test_controls: ['Low-pass off', 'Gain to 1 V'],
      fuse_amps: [40, 40],
      groups: [{ name: 'main', channels: 2, rated_loads: [4, 2.67], bridged_loads: [4], bass: false }],
    }
    expect(modelOf(draftOf(entry))).toEqual(entry)
  })
})
