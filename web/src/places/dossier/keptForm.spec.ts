// A form of something that is kept: added under its own draft, changed from the version that was seen.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import client, { ApiError } from '../../api/client'
import { LOTS, PHOTOGRAPHS, fileAt } from '../../api/kept'
import type { LotView } from '../../api/kept'
import { useWho } from '../../kit/who'
import { useKeptForm } from './useKeptForm'

const BLANK = { name: '', revision: '', made_on: null as string | null, count: null as number | null, remarks: '' }
const lot = (name: string, number = 1): LotView => ({
  id: 5,
  of_id: 1,
  number,
  title: `lot ${name}`,
  entry: { ...BLANK, name },
  by: 'Tamsin',
  at: '2026-11-20T10:00:00Z',
  closed: false,
})

/** What a composable gives within a component. */
function within<T>(composable: () => T): T {
  let made!: T
  const host = defineComponent({
    setup() {
      made = composable()
      return () => h('div')
    },
  })
  mount(host, { global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] } })
  return made
}

function form(kept: LotView | null, done = vi.fn()) {
  const made = within(() =>
    useKeptForm<LotView, typeof BLANK>(
      {
        kind: LOTS,
        of: 1,
        kept,
        blank: BLANK,
        toDraft: (entry) => ({ ...BLANK, ...entry, made_on: entry.made_on ?? null, count: entry.count ?? null }),
        toEntry: (draft) => draft,
      },
      done,
    ),
  )
  return { made, done }
}

beforeEach(() => {
  vi.restoreAllMocks()
  sessionStorage.clear()
  useWho().answer('Tamsin')
})

describe('a new one', () => {
  it('is posted where it belongs, and its draft is gone then', async () => {
    const post = vi.spyOn(client, 'POST').mockResolvedValue({ data: lot('2604') } as never)
    const { made, done } = form(null)
    made.draft.value.name = '2604'
    expect(sessionStorage.getItem('rulvek.lot.1')).toContain('2604')
    await made.act()
    await flushPromises()
    expect(post).toHaveBeenCalledWith('/api/models/1/lots', { body: expect.objectContaining({ name: '2604' }) })
    expect(done).toHaveBeenCalledOnce()
    expect(sessionStorage.getItem('rulvek.lot.1')).toBeNull()
  })
  it('keeps what is typed when it is refused, and says it at its field', async () => {
    const problem = { code: 'bad-input', what: 'Give the lot a name.', todo: '', field: 'name' }
    vi.spyOn(client, 'POST').mockResolvedValue({ error: problem } as never)
    const { made, done } = form(null)
    made.draft.value.remarks = 'first'
    await made.act()
    expect(made.says('name')).toBe('Give the lot a name.')
    expect(made.says('count')).toBe('')
    expect(made.problem.value).toBeInstanceOf(ApiError)
    expect(done).not.toHaveBeenCalled()
    expect(made.draft.value.remarks).toBe('first')
  })
})

describe('one that is changed', () => {
  it('is read afresh, and sent with the version that was seen', async () => {
    vi.spyOn(client, 'GET').mockResolvedValue({ data: [lot('2604', 3)] } as never)
    const put = vi.spyOn(client, 'PUT').mockResolvedValue({ data: lot('2604', 4) } as never)
    const { made, done } = form(lot('2604'))
    await flushPromises()
    made.draft.value.remarks = 'x'
    await made.act()
    await flushPromises()
    const [path, sent] = put.mock.calls[0]! as unknown as [string, { params: unknown; body: { remarks: string } }]
    expect(path).toBe('/api/lots/5')
    expect(sent.params).toEqual({ header: { 'If-Match': '3' } })
    expect(sent.body.remarks).toBe('x')
    expect(done).toHaveBeenCalledOnce()
    expect(made.subject.value).toBe('lot/5')
  })
})

it('a picture that comes with an answer can be drawn on: the form has a copy of it', () => {
  const entry = Object.freeze({ file: 'a'.repeat(64), caption: '', place: '', markers: Object.freeze([]) as never })
  const made = within(() =>
    useKeptForm(
      { kind: PHOTOGRAPHS, of: 1, kept: null, blank: entry, toDraft: (one) => one, toEntry: (draft) => draft },
      () => {},
    ),
  )
  made.draft.value.markers.push({ x: 0, y: 0, part: '' })
  expect(made.draft.value.markers.length).toBe(1)
  expect(fileAt('abc', true)).toBe('/api/files/abc/small')
})
