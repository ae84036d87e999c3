import { describe, expect, it } from 'vitest'
import { ticks } from './ticks'

const texts = (low: number, high: number, about?: number) => ticks(low, high, about).map((tick) => tick.text)

describe('round values along a scale', () => {
  it('are round, and lie within it', () => {
    expect(texts(0, 1272)).toEqual(['0', '500', '1000'])
    expect(texts(364.4, 371.9, 6)).toEqual(['366', '368', '370'])
    expect(texts(0.12, 0.31)).toEqual(['0.15', '0.20', '0.25', '0.30'])
  })
  it('have the decimals of their distance', () => {
    expect(texts(80, 92.5)).toEqual(['80.0', '82.5', '85.0', '87.5', '90.0', '92.5'])
    expect(texts(79.5, 82.0)).toEqual(['79.5', '80.0', '80.5', '81.0', '81.5', '82.0'])
  })
  it.each([
    [3, 4],
    [0, 1e-3],
    [-2.2, 17],
    [98.7, 98.9],
  ])('from %d to %d are a few, at one distance', (low, high) => {
    const found = ticks(low, high)
    expect(found.length).toBeGreaterThanOrEqual(2)
    expect(found.length).toBeLessThanOrEqual(6)
    for (const { at } of found) expect(at >= low - 1e-9 && at <= high + 1e-9).toBe(true)
  })
})
