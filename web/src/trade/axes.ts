import type uPlot from 'uplot'
import { themeColour } from '../app/theme/mode'

/** An axis in the house style: hairline grid, small figures, the quantity and its unit as its label. */
export function axis(label: string, more: Partial<uPlot.Axis> = {}): uPlot.Axis {
  return {
    label,
    labelFont: '13px "Source Sans 3 Variable"',
    labelSize: 20,
    labelGap: 0,
    font: '12px "JetBrains Mono Variable"',
    stroke: themeColour('ink-2'),
    grid: { stroke: themeColour('rule'), width: 1 },
    ticks: { stroke: themeColour('rule'), width: 1, size: 4 },
    ...(more.size === undefined ? { size: 26 } : {}),
    values: (_plot, splits) => splits.map((value) => String(Number(value.toPrecision(6))).replace('-', '−')),
    ...more,
  }
}

/**
 * The whole multiples of each power of ten from low to high, for lines on a logarithmic axis.
 *
 * The library's own never end for a low whose first figure rounds up (0.0978).
 *
 * @param low above 0
 */
export function decadeSplits(low: number, high: number): number[] {
  const [first, last] = [Math.floor(Math.log10(low)), Math.floor(Math.log10(high))]
  const found = []
  for (let power = first; power <= last; power++) for (let m = 1; m <= 9; m++) found.push(Number(`${m}e${power}`))
  return found.filter((value) => value >= low && value <= high)
}

/** A logarithmic axis: lines and plain figures at 1, 2 and 5 of each decade, or at the decades alone. */
export function logAxis(label: string, mantissas: number[], more: Partial<uPlot.Axis> = {}): uPlot.Axis {
  const filter = (_plot: uPlot, splits: number[]) =>
    splits.map((value) => {
      const mantissa = Math.round(value / 10 ** Math.floor(Math.log10(value) + 1e-9))
      return mantissas.includes(mantissa) ? value : null
    })
  const house = axis(label, more)
  return {
    ...house,
    splits: (_plot, _axis, low, high) => decadeSplits(low, high),
    filter,
    grid: { ...house.grid, filter },
    ticks: { ...house.ticks, filter },
    values: (_plot, splits) => splits.map((value) => (value === null ? '' : String(Number(value.toPrecision(1))))),
  }
}

/** A dashed line across the chart at a value of the y scale, with a word at its right end. */
export function levelLine(value: number, word: string, colour: string): uPlot.Plugin {
  return {
    hooks: {
      draw: (plot) => {
        const { ctx, bbox } = plot
        const y = Math.round(plot.valToPos(value, 'y', true))
        if (y < bbox.top || y > bbox.top + bbox.height) return
        ctx.save()
        ctx.strokeStyle = ctx.fillStyle = themeColour(colour)
        ctx.lineWidth = devicePixelRatio * 1.2
        ctx.setLineDash([6 * devicePixelRatio, 4 * devicePixelRatio])
        ctx.beginPath()
        ctx.moveTo(bbox.left, y)
        ctx.lineTo(bbox.left + bbox.width, y)
        ctx.stroke()
        ctx.font = `${13 * devicePixelRatio}px "Source Sans 3 Variable"`
        ctx.textAlign = 'left'
        ctx.fillText(word, bbox.left + 8 * devicePixelRatio, y - 5 * devicePixelRatio)
        ctx.restore()
      },
    },
  }
}

/** A thin upright line at a value of the x scale, with a word beside it, so many lines above its foot. */
export function powerMark(value: number, word: string, colour: string, line: number): uPlot.Plugin {
  return {
    hooks: {
      draw: (plot) => {
        const { ctx, bbox } = plot
        const x = Math.round(plot.valToPos(value, 'x', true))
        if (!(x >= bbox.left && x <= bbox.left + bbox.width)) return
        ctx.save()
        ctx.strokeStyle = ctx.fillStyle = themeColour(colour)
        ctx.lineWidth = devicePixelRatio
        ctx.beginPath()
        ctx.moveTo(x, bbox.top)
        ctx.lineTo(x, bbox.top + bbox.height)
        ctx.stroke()
        ctx.font = `${12 * devicePixelRatio}px "Source Sans 3 Variable"`
        ctx.textAlign = 'right'
        ctx.fillText(word, x - 5 * devicePixelRatio, bbox.top + bbox.height - (6 + 17 * line) * devicePixelRatio)
        ctx.restore()
      },
    },
  }
}
