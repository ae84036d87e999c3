import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { NetworkView } from '../../api/types'
import NetworkPicture from './NetworkPicture.vue'
import { BOX, pictureOf } from './networkLayout'

const one = (ohms: number, watts: number): NetworkView => ({
  kind: 'one',
  how: 'single',
  ohms,
  most_watts: 500,
  watts,
  parts: [],
})
const joined = (kind: 'series' | 'parallel', parts: NetworkView[]): NetworkView => ({
  ...one(4, 200),
  kind,
  how: kind,
  parts,
})

describe('the picture of a load network', () => {
  it('parts in series stand side by side, parts in parallel above each other between two rails', () => {
    const series = pictureOf(joined('series', [one(4, 50), one(4, 50)]))
    expect(series.resistors.map((r) => r.y)).toEqual([0, 0])
    expect(series.resistors[1]!.x).toBeGreaterThan(series.resistors[0]!.x + BOX.width)
    const parallel = pictureOf(joined('parallel', [one(8, 100), joined('series', [one(4, 50), one(4, 50)])]))
    expect(parallel.resistors).toHaveLength(3)
    expect(parallel.resistors[1]!.y).toBe(parallel.resistors[2]!.y)
    expect(parallel.resistors[1]!.y).toBeGreaterThanOrEqual(BOX.height)
    const rails = parallel.wires.filter((w) => w.x1 === w.x2 && w.y1 !== w.y2)
    expect(rails).toHaveLength(2)
  })

  it('every resistor stays within the picture and names its value and its share', () => {
    const picture = mount(NetworkPicture, { props: { network: joined('parallel', [one(8, 100), one(4, 200)]) } })
    expect(picture.findAll('text').map((t) => t.text())).toEqual(['8 Ω', '100.0 W', '4 Ω', '200 W'])
    const drawn = pictureOf(joined('parallel', [one(8, 100), one(4, 200)]))
    for (const r of drawn.resistors) {
      expect(r.x + BOX.width).toBeLessThanOrEqual(drawn.width)
      expect(r.y + BOX.height).toBeLessThanOrEqual(drawn.height)
    }
  })
})
