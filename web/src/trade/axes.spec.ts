import { expect, test } from 'vitest'
import { decadeSplits } from './axes'

test('a logarithmic axis has the whole multiples of the powers of ten, whatever its ends', () => {
  expect(decadeSplits(0.0978, 0.35)).toEqual([0.1, 0.2, 0.3])
  expect(decadeSplits(8, 40)).toEqual([8, 9, 10, 20, 30, 40])
  expect(decadeSplits(0.94, 0.96)).toEqual([])
  for (let k = 0; k < 5000; k++) {
    const low = 10 ** (-12 + (k * 17) / 5000)
    const high = low * 10 ** (1 + (k % 7))
    const found = decadeSplits(low, high)
    // Nine to a decade, one more where both ends are round (counted from the definition).
    expect(Math.abs(found.length - 9 * (1 + (k % 7)))).toBeLessThanOrEqual(1)
    expect(found.every((value) => value >= low && value <= high)).toBe(true)
  }
})
