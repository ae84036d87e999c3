// Round values along a scale, as people would mark them.
import { figure } from './quantity'

const STEPS = [1, 2, 2.5, 5, 10]

/**
 * Values from low to high at a round distance, about so many, each with as many decimals as the distance has.
 *
 * @param high above low
 */
export function ticks(low: number, high: number, about = 5): { at: number; text: string }[] {
  const rough = (high - low) / about
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = (STEPS.find((m) => m * power >= rough * (1 - 1e-9)) ?? 10) * power
  const decimals = [0, 1, 2, 3, 4].find((places) => Math.abs(step - Number(step.toFixed(places))) < step * 1e-6) ?? 5
  const first = Math.ceil(low / step - 1e-9)
  const last = Math.floor(high / step + 1e-9)
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, n) => ({
    at: (first + n) * step,
    text: figure((first + n) * step, decimals),
  }))
}
