import { expect, it } from 'vitest'
import { MOST_DRAWN, thinned } from './thinned'

const count = (n: number) => Array.from({ length: n }, (_, i) => i)

it('leaves what has room as it is', () => {
  const rows = count(MOST_DRAWN)
  expect(thinned(rows)).toBe(rows)
})

it.each([MOST_DRAWN + 1, 3 * MOST_DRAWN, 123_457])('draws no more than there is room for of %i, evenly', (n) => {
  const drawn = thinned(count(n))
  expect(drawn).toHaveLength(MOST_DRAWN)
  expect([drawn[0], drawn.at(-1)]).toEqual([0, n - 1])
  const gaps = drawn.slice(1).map((at, i) => at - drawn[i]!)
  expect(Math.max(...gaps) - Math.min(...gaps)).toBeLessThanOrEqual(1)
})
