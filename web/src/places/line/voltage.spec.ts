// Power against supply: what is measured and what is estimated are never mixed up.
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import type { VoltageFitView } from '../../api/types'
import VoltageSection from './VoltageSection.vue'

const fit = (changes: Partial<VoltageFitView> = {}): VoltageFitView => ({
  group: 'main',
  load_ohms: 4,
  bridged: false,
  exponent: 2.07,
  exponent_low: 1.93,
  exponent_high: 2.21,
  character: 'unregulated',
  points: [
    { volts: 12.48, watts: 74.7, expanded_watts: 2.5, attempt_id: 1 },
    { volts: 14.37, watts: 100.3, expanded_watts: 2.5, attempt_id: 2 },
  ],
  curve: [],
  at_claims: [{ volts: 12.5, watts: 75.0, low: 73.9, high: 76.2 }],
  ...changes,
})
const section = (fits: VoltageFitView[]) =>
  mount(VoltageSection, {
    props: { fits },
    global: { stubs: { RouterLink: { template: '<a><slot /></a>' }, VoltageChart: true } },
  })

it('gives the exponent with its interval, and says what sort of supply that is', () => {
  expect(section([fit()]).text()).toContain('2.07 (95 %: 1.93 to 2.21), unregulated: about the square of the voltage')
  const regulated = fit({ exponent: 0.01, exponent_low: -0.02, exponent_high: 0.04, character: 'regulated' })
  expect(section([regulated]).text()).toContain('regulated: the supply hardly matters')
  const between = fit({ exponent: 1.2, exponent_low: 0.4, exponent_high: 2.0, character: '' })
  expect(section([between]).text()).not.toMatch(/regulated/)
})

it('marks estimates as such, and leaves the exponent open with too few voltages', () => {
  const rows = section([fit()])
    .findAll('tbody tr')
    .map((row) => row.text())
  expect(rows[0]).toContain('measured')
  expect(rows.at(-1)).toContain("estimated at the claim's voltage, 73.9 to 76.2 W")
  const open = fit({ exponent: null, exponent_low: 0, exponent_high: 2.3 })
  expect(section([open]).text()).toContain('anything from 0 to 2.3 is possible')
})

it('goes from load to load, and is not there without runs at several voltages', async () => {
  const wrapper = section([fit(), fit({ load_ohms: 2, exponent: 1.9 })])
  const loads = wrapper.findAll('.picker button')
  expect(loads.map((load) => load.attributes('aria-pressed'))).toEqual(['true', 'false'])
  await loads[1]!.trigger('click')
  expect(wrapper.text()).toContain('1.90')
  expect(section([]).find('section').exists()).toBe(false)
})
