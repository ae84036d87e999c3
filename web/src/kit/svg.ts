// A chart as a drawing of its own, for print: ink on white, a line a trace, told apart by colour and by dashes.
import type { Trace } from './ChartFrame.vue'

const SIZE = { width: 720, height: 400, left: 70, right: 20, top: 40, bottom: 84 }
const INKS = ['#0f6b66', '#8a5a00', '#5b3a70', '#a5332b', '#2f4b6e']
const DASHES = ['', '6 4', '2 3', '10 4 2 4', '12 5']

const escaped = (text: string) => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`)
const isThere = (value: number | null | undefined): value is number => value !== null && Number.isFinite(value)

/** Round values from low to high: 1, 2 or 5 times a power of ten apart, or the decades between them. */
export function ticks(low: number, high: number, log: boolean): number[] {
  if (log) {
    const [first, last] = [Math.ceil(Math.log10(low) - 1e-9), Math.floor(Math.log10(high) + 1e-9)]
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => 10 ** (first + i))
  }
  const rough = (high - low || 1) / 5
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map((m) => m * power).find((one) => one >= rough) ?? rough
  const found = []
  for (let k = Math.ceil(low / step - 1e-9); k * step <= high + 1e-9 * step; k++)
    found.push(Number((k * step).toPrecision(10)))
  return found
}

/**
 * The drawing of some traces.
 *
 * @param traces the first one is what the others are drawn against; the others share an axis
 * @param log the first axis by decades
 */
export function svgOf(title: string, traces: readonly Trace[], log: boolean): string {
  const [along, ...drawn] = traces
  const xs = (along?.values ?? []).filter((x) => isThere(x) && (!log || x > 0)) as number[]
  const ys = drawn.flatMap((t) => t.values.filter(isThere))
  const { width, height, left, right, top, bottom } = SIZE
  const parts = [
    `<rect width="${width}" height="${height}" fill="#fff"/>`,
    `<text x="${left}" y="24" font-size="16" font-weight="600">${escaped(title)}</text>`,
  ]
  if (along && xs.length && ys.length) {
    const [x0, x1] = [Math.min(...xs), Math.max(...xs)]
    const [y0, y1] = [Math.min(...ys), Math.max(...ys)]
    const scale = (value: number) => (log ? Math.log10(value) : value)
    const share = scale(x1) - scale(x0) || 1
    const x = (value: number) => left + ((scale(value) - scale(x0)) / share) * (width - left - right)
    const y = (value: number) => height - bottom - ((value - y0) / (y1 - y0 || 1)) * (height - top - bottom)
    for (const tick of ticks(x0, x1, log))
      parts.push(
        `<line x1="${x(tick)}" x2="${x(tick)}" y1="${top}" y2="${height - bottom}" stroke="#ddd"/>`,
        `<text x="${x(tick)}" y="${height - bottom + 18}" text-anchor="middle">${tick}</text>`,
      )
    for (const tick of ticks(y0, y1, false))
      parts.push(
        `<line x1="${left}" x2="${width - right}" y1="${y(tick)}" y2="${y(tick)}" stroke="#ddd"/>`,
        `<text x="${left - 8}" y="${y(tick) + 4}" text-anchor="end">${tick}</text>`,
      )
    parts.push(
      `<text x="${(left + width) / 2}" y="${height - bottom + 38}" text-anchor="middle">${escaped(`${along.head}, ${along.unit}`)}</text>`,
    )
    drawn.forEach((trace, index) => {
      const points = trace.values.flatMap((value, i) => {
        const at = along.values[i]
        return isThere(value) && isThere(at) && (!log || at > 0) ? [`${x(at).toFixed(1)},${y(value).toFixed(1)}`] : []
      })
      const look = `fill="none" stroke="${INKS[index % INKS.length]}" stroke-width="1.6" stroke-dasharray="${DASHES[index % DASHES.length]}"`
      const legend = left + index * 130
      parts.push(
        `<polyline points="${points.join(' ')}" ${look}/>`,
        `<line x1="${legend}" x2="${legend + 26}" y1="${height - 18}" y2="${height - 18}" ${look}/>`,
        `<text x="${legend + 32}" y="${height - 14}">${escaped(`${trace.head}, ${trace.unit}`)}</text>`,
      )
    })
  }
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" font-family="sans-serif" font-size="12" fill="#111">${parts.join('')}</svg>`
}
