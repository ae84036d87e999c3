import { describe, expect, it } from 'vitest'
import { outOfRange, typedNumber } from './number'

describe('what is typed for a number', () => {
  it.each([
    ['12.5', 12.5],
    ['12,5', 12.5],
    [' 12,5 ', 12.5],
    ['1,234', 1.234], // as it stands: nobody guesses thousands
    ['.5', 0.5],
    ['5.', 5],
    ['−3', -3],
    ['1e3', 1000],
    ['', null],
    ['   ', null],
  ])('%s', (text, value) => expect(typedNumber(text)).toEqual({ value }))

  it.each(['1,234.5', '1.234,5', '1 000', '1’000', '12.345.678'])('%s is not guessed', (text) =>
    expect(typedNumber(text)).toEqual({ wrong: 'is to be written without signs between thousands' }),
  )

  it.each(['12.5 V', 'abc', '1..2', '--3', '1e999', '12.5.'])('%s is no number', (text) =>
    expect(typedNumber(text)).toEqual({ wrong: 'is no number' }),
  )

  it('says its range', () => {
    expect(outOfRange(3, 0, 5)).toBe('')
    expect(outOfRange(-1, 0)).toBe('is at least 0')
    expect(outOfRange(9, undefined, 5)).toBe('is at most 5')
    expect(outOfRange(9, 1, 5)).toBe('is from 1 to 5')
    expect(outOfRange(1.5, 0, 5, true)).toBe('is to be a whole number')
  })
})
