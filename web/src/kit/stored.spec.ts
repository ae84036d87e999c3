import { afterEach, describe, expect, it } from 'vitest'
import { dismissNote, droppedNote, stored } from './stored'

const BLANK = {
  mode: 'certified',
  load: 4,
  values: [] as number[],
  runs: null as object[] | null,
  on: true,
}
const kept = (text: string) => {
  localStorage.setItem('form', text)
  return stored(localStorage, 'form', BLANK)
}
afterEach(() => {
  localStorage.clear()
  dismissNote()
})

describe('a kept form', () => {
  it('comes back as it was', () => {
    const form = { mode: 'burst', load: 2, values: [1, 2], runs: [{}], on: false }
    expect(kept(JSON.stringify(form))).toEqual(form)
    expect(droppedNote.value).toBe('')
    expect(stored(localStorage, 'nothing', BLANK)).toEqual(BLANK)
  })

  it.each(['{"mode":', '7', 'null', '[]', '"text"'])('that is %s is an empty one, with a note', (text) => {
    expect(kept(text)).toEqual(BLANK)
    expect(droppedNote.value).toContain('could not be read')
    expect(localStorage.getItem('form')).toBeNull()
  })

  it('loses what is of another kind, and keeps the rest', () => {
    expect(kept('{"mode": 3, "load": "four", "values": {}, "on": null}')).toEqual(BLANK)
    dismissNote()
    expect(kept('{"mode": "burst", "values": "x"}')).toEqual({ ...BLANK, mode: 'burst' })
    expect(droppedNote.value).not.toBe('')
  })

  it('knows no fields but its own', () => {
    expect(kept('{"load": 2, "of another version": 1}')).toEqual({ ...BLANK, load: 2 })
    expect(droppedNote.value).toBe('')
  })

  it('shares nothing with the empty one', () => {
    stored(localStorage, 'nothing', BLANK).values.push(1)
    expect(BLANK.values).toEqual([])
  })
})
