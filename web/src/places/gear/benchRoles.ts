// The roles of a bench, as people say them, in the order in which a bench is put together.

export interface Station {
  role: string
  title: string
  address: string
  simulated: boolean
}

/** Which of them a bench cannot do without. */
export const BENCH_ROLES = [
  { role: 'source', name: 'Source', does: 'sends the tone', needed: true },
  { role: 'recorder', name: 'Recorder', does: 'records the outputs', needed: true },
  { role: 'supply', name: 'Supply', does: 'feeds the amplifier', needed: true },
  { role: 'loads', name: 'Load bank', does: 'switches the loads', needed: true },
  { role: 'temperatures', name: 'Thermometer', does: 'watches sink and loads', needed: true },
  { role: 'current', name: 'Current probe', does: 'sees what flows', needed: false },
  { role: 'off', name: 'Contactor', does: 'parts the supply’s lead with Off', needed: false },
  { role: 'time', name: 'Clock', does: 'of simulated instruments only', needed: false },
] as const

export const roleName = (role: string) => BENCH_ROLES.find((one) => one.role === role)?.name ?? role

/** What a picture of the wires is drawn from. */
export interface Wired {
  stations: readonly Pick<Station, 'role' | 'title' | 'address'>[]
  wires: readonly { channel: number; input: number }[]
  volts_per_unit: number
}

const HIGH = 46
const GAP = 26
const ROW = 20

/** Where everything of the picture stands: instruments left and right of the amplifier, one line a channel. */
export function wiresLayout(made: Wired) {
  const wires = made.wires.slice(0, 8)
  const tall = Math.max(2 * HIGH + GAP, wires.length * ROW + 26)
  const top = 8
  const amplifier = { x: 250, y: top, width: 120, height: tall }
  const at = (role: string) => made.stations.find((one) => one.role === role)
  const box = (role: string, x: number, y: number, width = 170) => ({ role, x, y, width, height: HIGH, held: at(role) })
  const middle = top + tall / 2
  const boxes = [
    box('source', 0, middle - HIGH / 2),
    box('loads', 480, top),
    box('recorder', 480, top + tall - HIGH),
    box('supply', 0, top + tall + 44),
    box('current', 225, top + tall + 44),
    box('temperatures', 480, top + tall + 44),
  ]
  const below = boxes.at(-1)!.y + HIGH
  if (at('off')) boxes.push(box('off', 0, below + 10))
  const lines = wires.map((wire, i) => {
    const y = top + 22 + i * ROW + (tall - wires.length * ROW - 20) / 2
    return { ...wire, y, from: amplifier.x + amplifier.width, to: 480 }
  })
  return {
    amplifier,
    boxes,
    lines,
    more: made.wires.length - wires.length,
    width: 650,
    height: below + 8 + (at('off') ? HIGH + 10 : 0),
  }
}
