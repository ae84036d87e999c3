import { describe, expect, it } from 'vitest'
import { keyFor, settled } from './sentOnce'

describe('a key for what is asked', () => {
  it('is one while there is no answer, and for a moment after it', () => {
    const first = keyFor('POST /a {}', 1000)
    expect(keyFor('POST /a {}', 60_000)).toBe(first) // a retry, however late
    expect(keyFor('POST /a {"other": 1}', 1000)).not.toBe(first)
    settled('POST /a {}', true, 61_000)
    expect(keyFor('POST /a {}', 61_400)).toBe(first) // the second of two quick Enters
    expect(keyFor('POST /a {}', 61_600)).not.toBe(first)
  })

  it('is a new one after a refusal', () => {
    const first = keyFor('POST /b {}', 1000)
    settled('POST /b {}', false, 1100)
    expect(keyFor('POST /b {}', 1101)).not.toBe(first)
  })
})
