// What others did, as far as a page has room for it.
import { expect, it } from 'vitest'
import { latestOfEach } from './now'
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
