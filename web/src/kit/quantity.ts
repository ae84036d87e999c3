// A figure with its expanded uncertainty: U to two significant digits, the value to the same place (GUM, 7.2.6).

const MINUS = '−'

/** A figure with so many decimals, a true minus sign, or a dash where there is none. */
export function figure(value: number | null | undefined, decimals: number): string {
  if (value === null || value === undefined) return '–'
  const places = Math.max(0, decimals)
  const rounded = decimals < 0 ? Math.round(value / 10 ** -decimals) * 10 ** -decimals : value
  const text = rounded.toFixed(places)
  return Number(text) === 0 ? text.replace('-', '') : text.replace('-', MINUS)
}

/** A figure that a person set, with the digits it was set to: a limit is not rounded, least of all upward. */
export function asSet(value: number | null | undefined): string {
  return value === null || value === undefined ? '–' : String(value).replace('-', MINUS)
}

/** How many decimals two significant digits of U have; −1 stands for tens. */
export function decimalsOf(expanded: number): number {
  return 1 - Number(expanded.toExponential(1).split('e')[1])
}

/** A value and its U as both are written; U is null where none is known. */
export function withSpread(
  value: number,
  expanded: number | null | undefined,
): { value: string; spread: string } | null {
  if (expanded === null || expanded === undefined || !(expanded > 0) || !Number.isFinite(expanded)) return null
  const decimals = decimalsOf(expanded)
  return { value: figure(value, decimals), spread: figure(expanded, decimals) }
}
