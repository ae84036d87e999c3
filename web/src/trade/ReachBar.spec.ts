// The picture that recurs everywhere: what is drawn where, and what is said to those who do not see it.
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { ReachView, VerdictKind } from '../api/types'
import { VERDICT_WORDS } from './format'
import ReachBar from './ReachBar.vue'
import VerdictMark from './VerdictMark.vue'

function reach(changes: Partial<ReachView> = {}): ReachView {
  return {
    group: 'main',
    load_ohms: 4,
    bridged: false,
    certified_watts: 80,
    expanded_watts: 1,
    simulated: false,
    at_limit: true,
    uncertified_watts: null,
    uncertified_expanded_watts: null,
    burst_watts: null,
    burst_expanded_watts: null,
    burst_largest_watts: null,
    headroom_db: null,
    supply_volts: 14.4,
    comparable: true,
    unit_serial: 'T2-0001',
    attempt_id: 1,
    notches: [{ claim_id: 1, watts: 75, document: 'Manual', kind: 'continuous', verdict: 'backed', doubted: false }],
    ...changes,
  }
}

const bar = (changes: Partial<ReachView> = {}, scale = 100) =>
  mount(ReachBar, { props: { reach: reach(changes), scale } })

describe('the reach bar', () => {
  it('is solid to the certified watts, with ± U around its end', () => {
    const wrapper = bar()
    expect(wrapper.get('rect.solid').attributes('width')).toBe('80%')
    expect(wrapper.get('rect.band').attributes()).toMatchObject({ x: '79%', width: '2%' })
    expect(wrapper.get('line.notch').attributes('x1')).toBe('75%')
  })

  it('is dashed when the run stopped short of the limit', () => {
    expect(bar({ at_limit: false }).find('rect.solid').exists()).toBe(false)
    expect(bar({ at_limit: false }).find('rect.stopped').exists()).toBe(true)
  })

  it('draws no bar where nothing was tested, but keeps the claim', () => {
    const wrapper = bar({ certified_watts: null, expanded_watts: null })
    expect(wrapper.findAll('rect')).toHaveLength(0)
    expect(wrapper.findAll('line.notch')).toHaveLength(1)
  })

  it('keeps “maximum” figures off a continuous scale', () => {
    const maximum = {
      claim_id: 2,
      watts: 900,
      document: 'Carton',
      kind: 'maximum',
      verdict: 'no_evidence',
      doubted: false,
    } as const
    expect(bar({ notches: [...reach().notches, maximum] }).findAll('line.notch')).toHaveLength(1)
  })

  it('sets the shapes of close claims beside each other, their notches in place', () => {
    const near = {
      claim_id: 2,
      watts: 77,
      document: 'Web',
      kind: 'continuous',
      verdict: 'backed',
      doubted: false,
    } as const
    const wrapper = bar({ notches: [...reach().notches, near] })
    const shifts = wrapper.findAll('.shape').map((shape) => shape.attributes('style'))
    expect(shifts[0]).toContain('translateX(-7px)')
    expect(shifts[1]).toContain('translateX(7px)')
    expect(wrapper.findAll('line.notch').map((line) => line.attributes('x1'))).toEqual(['75%', '77%'])
  })

  it('never draws past its scale', () => {
    expect(bar({}, 50).get('rect.solid').attributes('width')).toBe('100%')
  })

  it('says all of it in words', () => {
    expect(bar().attributes('aria-label')).toBe('main, 4 Ω: certified 80.0 W ± 1.0 W; claim 75 W, Manual: backed')
  })
})

describe('verdict marks', () => {
  it('have a shape of their own for every verdict', () => {
    const shapes = (Object.keys(VERDICT_WORDS) as VerdictKind[]).map((kind) =>
      mount(VerdictMark, { props: { kind } })
        .get('svg')
        .html()
        .replace(/data-v-\w+=""/g, ''),
    )
    expect(new Set(shapes).size).toBe(shapes.length)
  })

  it('show the word, or keep it for those who listen', () => {
    expect(mount(VerdictMark, { props: { kind: 'short' } }).text()).toBe('Short')
    const bare = mount(VerdictMark, { props: { kind: 'short', bare: true } })
    expect(bare.text()).toBe('')
    expect(bare.get('svg').attributes('aria-label')).toBe('Short')
    const brief = mount(VerdictMark, { props: { kind: 'too_close', short: true } })
    expect(brief.text()).toBe('Too close')
  })
})
