// Source: RFC 4180 for the form.
import { describe, expect, it } from 'vitest'
import { cell, csvOf } from './csv'

describe('what is taken along as CSV', () => {
  it('is quoted where it must be, with CRLF', () => {
    expect(
      csvOf([
        ['Load, Ω', 'Says'],
        [4, 'a "b"\nc'],
      ]),
    ).toBe('"Load, Ω",Says\r\n4,"a ""b""\nc"\r\n')
  })
  it.each(['=1+1', '+1', '-1', '@a', '\tx'])('%s is shown as text', (text) => expect(cell(text)).toContain(`'${text}`))
  it('numbers are numbers, and nothing is nothing', () => {
    expect([cell(-1.5), cell(null), cell(undefined), cell(NaN), cell('')]).toEqual(['-1.5', '', '', '', ''])
  })
})
