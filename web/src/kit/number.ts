// What people type for a number: a decimal point or a decimal comma, never a guess.

/** What a text comes to: a number, nothing, or words that are none. */
export type Typed = { value: number | null } | { wrong: string }

const PLAIN = /^[+-]?(\d+([.,]\d*)?|[.,]\d+)(e[+-]?\d+)?$/i
const GROUPED = /^[+-]?\d{1,3}([., '’]\d{3})+([.,]\d+)?$/

/**
 * A number as it was typed.
 *
 * The decimal sign is a point or a comma. Where a sign could part thousands (`1,234.5`, `1 000`) nothing is guessed;
 * `1,234` is one and a bit, as it stands there.
 */
export function typedNumber(text: string): Typed {
  const said = text.trim().replace(/[−–]/g, '-').replace(/\s+/g, ' ')
  if (said === '') return { value: null }
  if (PLAIN.test(said)) {
    const value = Number(said.replace(',', '.'))
    if (Number.isFinite(value)) return { value }
  }
  if (GROUPED.test(said)) return { wrong: 'is to be written without signs between thousands' }
  return { wrong: 'is no number' }
}

/** What is wrong with a number within its range, in words; empty where nothing is. */
export function outOfRange(value: number, min?: number, max?: number, whole = false): string {
  if (whole && !Number.isInteger(value)) return 'is to be a whole number'
  if (min !== undefined && value < min) return max === undefined ? `is at least ${min}` : `is from ${min} to ${max}`
  if (max !== undefined && value > max) return min === undefined ? `is at most ${max}` : `is from ${min} to ${max}`
  return ''
}
