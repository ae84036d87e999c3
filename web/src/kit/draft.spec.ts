import { effectScope, nextTick } from 'vue'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { useDraft } from './draft'

const BLANK = { name: '', watts: null as number | null, rows: [] as string[] }
const draft = (key = 'd.1') => effectScope().run(() => useDraft(key, BLANK))!
beforeEach(() => {
  localStorage.clear()
  vi.useFakeTimers({ toFake: ['Date'] })
})

describe('a draft', () => {
  it('is there after a reload, record by record, and gone when it was sent', async () => {
    const first = draft()
    first.draft.value.name = 'Manual'
    first.draft.value.rows.push('a')
    expect(draft().draft.value).toEqual({ name: 'Manual', watts: null, rows: ['a'] })
    expect(draft('d.2').isBlank.value).toBe(true)
    first.forget()
    await nextTick()
    expect([first.isBlank.value, localStorage.getItem('d.1')]).toEqual([true, null])
    expect(BLANK.rows).toEqual([]) // the empty form itself is nobody's draft
  })

  it('takes typing that goes on as one step, and undoes it after a reload, too', () => {
    const first = draft()
    for (const name of ['M', 'Ma', 'Man']) first.draft.value.name = name
    vi.setSystemTime(Date.now() + 5000)
    first.draft.value.watts = 75
    const again = draft()
    expect(again.canUndo.value).toBe(true)
    again.undo()
    expect(again.draft.value).toMatchObject({ name: 'Man', watts: null })
    again.undo()
    expect(again.draft.value.name).toBe('')
    expect(again.canUndo.value).toBe(false)
  })

  it('what is set at once is a step of its own; what is amended is none', () => {
    const one = draft()
    one.set({ ...one.draft.value, name: 'a' })
    one.set({ ...one.draft.value, name: 'b' })
    one.amend({ ...one.draft.value, watts: 3 })
    one.undo()
    expect(one.draft.value).toMatchObject({ name: 'a', watts: null })
  })

  it('is read back only as far as it has the form’s shape', () => {
    localStorage.setItem('d.1', JSON.stringify({ now: { name: 7, rows: 'x', watts: 5, more: 1 }, before: 3 }))
    expect(draft().draft.value).toEqual({ name: '', watts: 5, rows: [] })
    localStorage.setItem('d.1', '{')
    expect(draft().isBlank.value).toBe(true)
  })

  it('tells that another tab changed it, and asks which counts', () => {
    const one = draft()
    one.draft.value.name = 'here'
    const there = JSON.stringify({ now: { ...BLANK, name: 'there' }, before: [] })
    const change = (key: string) => {
      localStorage.setItem(key, there)
      window.dispatchEvent(new StorageEvent('storage', { key, newValue: there, storageArea: localStorage }))
    }
    change('d.9')
    expect(one.elsewhere.value).toBeNull()
    change('d.1')
    expect(one.elsewhere.value).toMatchObject({ name: 'there' })
    one.keep()
    expect([one.elsewhere.value, JSON.parse(localStorage.getItem('d.1')!).now.name]).toEqual([null, 'here'])
    change('d.1')
    one.take()
    expect([one.elsewhere.value, one.draft.value.name]).toEqual([null, 'there'])
  })
})
