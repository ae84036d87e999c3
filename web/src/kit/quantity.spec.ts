// Source: JCGM 100:2008 (GUM), 7.2.6; the same vectors as tests/core/test_rounding.py.
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { asSet, figure, withSpread } from './quantity'
import Quantity from './Quantity.vue'

describe('a value with its U', () => {
  it.each([
    [50.000838, 0.000032, '50.000838', '0.000032'],
    [62.504, 0.78, '62.50', '0.78'],
    [712.04, 9.04, '712.0', '9.0'],
    [1259.94, 16.04, '1260', '16'],
    [1259.94, 99.6, '1260', '100'],
    [-0.004, 0.5, '0.00', '0.50'],
    [2.5, 2.5, '2.5', '2.5'],
  ])('%d ± %d', (value, u, written, spread) => expect(withSpread(value, u)).toEqual({ value: written, spread }))

  it.each([null, undefined, 0, -1, NaN, Infinity])('%s is no U', (u) => expect(withSpread(1, u)).toBeNull())

  it('has a true minus, and a dash where there is none', () => {
    expect([figure(-3.14159, 2), figure(null, 2), figure(-0.001, 2)]).toEqual(['−3.14', '–', '0.00'])
  })

  it('keeps a limit as somebody set it, and never shows a higher one', () => {
    expect([asSet(250.5), asSet(16), asSet(-40), asSet(null)]).toEqual(['250.5', '16', '−40', '–'])
  })

  it('stands with its unit, or in its tip alone', () => {
    const both = mount(Quantity, { props: { value: 712.04, expanded: 9.04, unit: 'W' } })
    expect(both.text()).toBe('712.0 ± 9.0\u00a0W')
    const bare = mount(Quantity, { props: { value: 712.04, expanded: 9.04, unit: 'W', spread: false, bare: true } })
    expect([bare.text(), bare.attributes('title')]).toEqual(['712.0', '± 9.0 W at 95 %'])
    const plain = mount(Quantity, { props: { value: 712.04, unit: 'W' } })
    expect([plain.text(), plain.attributes('title')]).toEqual(['712.04\u00a0W', undefined])
    expect(mount(Quantity, { props: { value: null, unit: 'W', bare: true } }).text()).toBe('–')
  })
})
