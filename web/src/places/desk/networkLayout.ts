// Where the resistors and wires of a load network are drawn: a tree in series (side by side) and parallel (stacked).
import type { NetworkView } from '../../api/types'

export interface Resistor {
  x: number
  y: number
  network: NetworkView
}
export interface Wire {
  x1: number
  y1: number
  x2: number
  y2: number
}
export interface Picture {
  width: number
  height: number
  resistors: Resistor[]
  wires: Wire[]
}

export const BOX = { width: 66, height: 34 }
const LEAD = 12
const GAP = 8

/** A picture whose left and right ends are wired at half of its height. */
export function pictureOf(network: NetworkView): Picture {
  if (network.kind === 'one') {
    const y = BOX.height / 2
    const right = LEAD + BOX.width
    return {
      width: BOX.width + 2 * LEAD,
      height: BOX.height,
      resistors: [{ x: LEAD, y: 0, network }],
      wires: [
        { x1: 0, y1: y, x2: LEAD, y2: y },
        { x1: right, y1: y, x2: right + LEAD, y2: y },
      ],
    }
  }
  const parts = network.parts.map(pictureOf)
  return network.kind === 'series' ? sideBySide(parts) : stacked(parts)
}

function sideBySide(parts: Picture[]): Picture {
  const height = Math.max(...parts.map((p) => p.height))
  let x = 0
  const moved = parts.map((part) => {
    const at = moveBy(part, x, (height - part.height) / 2)
    x += part.width
    return at
  })
  return joined(moved, x, height, [])
}

function stacked(parts: Picture[]): Picture {
  const inner = Math.max(...parts.map((p) => p.width))
  const height = parts.reduce((sum, p) => sum + p.height + GAP, -GAP)
  const [left, right] = [LEAD, LEAD + inner]
  let y = 0
  const ends: number[] = []
  const wires: Wire[] = []
  const moved = parts.map((part) => {
    const middle = y + part.height / 2
    const own = left + (inner - part.width) / 2
    ends.push(middle)
    wires.push(
      { x1: left, y1: middle, x2: own, y2: middle },
      { x1: own + part.width, y1: middle, x2: right, y2: middle },
    )
    const at = moveBy(part, own, y)
    y += part.height + GAP
    return at
  })
  const [top, bottom] = [ends[0]!, ends[ends.length - 1]!]
  for (const x of [left, right]) wires.push({ x1: x, y1: top, x2: x, y2: bottom })
  wires.push(
    { x1: 0, y1: height / 2, x2: left, y2: height / 2 },
    { x1: right, y1: height / 2, x2: right + LEAD, y2: height / 2 },
  )
  return joined(moved, inner + 2 * LEAD, height, wires)
}

const moveBy = (p: Picture, x: number, y: number): Picture => ({
  ...p,
  resistors: p.resistors.map((r) => ({ ...r, x: r.x + x, y: r.y + y })),
  wires: p.wires.map((w) => ({ x1: w.x1 + x, y1: w.y1 + y, x2: w.x2 + x, y2: w.y2 + y })),
})

const joined = (parts: Picture[], width: number, height: number, wires: Wire[]): Picture => ({
  width,
  height,
  resistors: parts.flatMap((p) => p.resistors),
  wires: [...parts.flatMap((p) => p.wires), ...wires],
})
