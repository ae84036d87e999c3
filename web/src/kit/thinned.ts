// What a chart draws of very much: no more than it has room for, evenly, its first and its last among them.

export const MOST_DRAWN = 2000

/** @param most at least 2 */
export function thinned<T>(rows: readonly T[], most = MOST_DRAWN): readonly T[] {
  if (rows.length <= most) return rows
  const step = (rows.length - 1) / (most - 1)
  return Array.from({ length: most }, (_, i) => rows[Math.round(i * step)]!)
}
