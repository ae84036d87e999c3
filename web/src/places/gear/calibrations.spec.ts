// What was found and left, over the years, beside the limits of each year.
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import CalibrationChart from './CalibrationChart.vue'

const point = (on: string, found: number | null, left: number | null, limit: number, out = false) => ({
  on,
  certificate: '',
  found_percent: found,
  left_percent: left,
  limit_percent: limit,
  out,
})
const shown = (...points: ReturnType<typeof point>[]) =>
  mount(CalibrationChart, {
    props: { of: { role: 'output', name: 'Meter 4', points } },
    global: { stubs: { ChartFrame: { props: ['title', 'traces'], template: '<div><slot /></div>' } } },
  })

describe('calibrations of an instrument', () => {
  it('draws what was out of its limits otherwise, and outside of them', () => {
    const page = shown(point('2026-03-02', 0.1, 0.1, 0.4), point('2027-03-01', 0.9, 0.05, 0.4, true))
    const found = page.findAll('circle')
    expect(found.map((one) => one.classes('out'))).toEqual([false, true])
    const limits = page.findAll('path').map((one) => Number(one.attributes('d')!.split(/[ ,]+/)[2]))
    expect(Number(found[1]!.attributes('cy'))).toBeLessThan(Math.min(...limits))
    expect(Number(found[0]!.attributes('cy'))).toBeGreaterThan(Math.min(...limits))
  })

  it('leaves out what nobody said, and stands alone in the middle', () => {
    const page = shown(point('2026-03-02', null, 0.1, 0.4))
    expect(page.findAll('circle')).toHaveLength(0)
    expect(page.findAll('rect')).toHaveLength(1)
    expect(page.find('svg').attributes('aria-label')).toContain('found – %, left 0.10 %')
    expect(page.html()).not.toContain('NaN')
  })
})
