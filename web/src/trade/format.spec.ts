// How figures and verdicts are worded; the same words stand on every screen.
import { describe, expect, it, vi } from 'vitest'
import type { ClaimView, ReachView } from '../api/types'
import { figure } from '../kit/quantity'
import {
  END_WORDS,
  VERDICT_WORDS,
  conditions,
  decibels,
  minutes,
  percent,
  place,
  reachInWords,
  spread,
  watts,
  wiringInWords,
} from './format'

const reach: ReachView = {
  group: 'main',
  load_ohms: 4,
  bridged: true,
  certified_watts: 266.4,
  expanded_watts: 3.26,
  simulated: false,
  at_limit: true,
  uncertified_watts: null,
  uncertified_expanded_watts: null,
  burst_watts: null,
  burst_expanded_watts: null,
  burst_largest_watts: null,
  headroom_db: null,
  supply_volts: 14.37,
  unit_serial: 'T2-0001',
  attempt_id: 3,
  comparable: true,
  notches: [{ claim_id: 1, watts: 240, document: 'Manual', kind: 'continuous', verdict: 'backed', doubted: false }],
}

describe('wirings', () => {
  it('name channels and pairs by the load they work into', () => {
    const each = [1, 2, 3].map((channel) => ({ channels: [channel], ohms: 4 }))
    expect(wiringInWords(each)).toBe('1, 2 and 3 into 4 Ω')
    const pairs = [
      { channels: [1, 2], ohms: 4 },
      { channels: [3, 4], ohms: 4 },
      { channels: [5], ohms: 2 },
    ]
    expect(wiringInWords(pairs)).toBe('1 + 2 and 3 + 4 bridged into 4 Ω; 5 into 2 Ω')
  })

  it('take the time that people would say', () => {
    expect([minutes(0.4), minutes(28.4), minutes(150), minutes(null)]).toEqual(['< 1 min', '28 min', '2.5 h', '–'])
  })

  it('have headroom with its sign', () => {
    expect([decibels(0.068), decibels(-3.4), decibels(-0.001), decibels(null)]).toEqual(['+0.07', '−3.40', '0.00', '–'])
  })
})

describe('figures', () => {
  it('have a true minus sign and a dash where there is nothing', () => {
    expect(figure(-1.25, 1)).toBe('−1.3')
    expect(figure(null, 2)).toBe('–')
    expect(figure(undefined, 2)).toBe('–')
    expect(figure(0, 2)).toBe('0.00')
  })

  it('give watts with a precision that suits their size', () => {
    expect([watts(5.456), watts(98.71), watts(133.15), watts(1229.8), watts(null)]).toEqual([
      '5.46',
      '98.7',
      '133.2',
      '1230',
      '–',
    ])
  })

  it('give an uncertainty in two significant figures', () => {
    expect([spread(0.726), spread(4.53), spread(15.1), spread(null)]).toEqual(['0.73', '4.5', '15', '–'])
  })

  it('give small distortion with more decimals', () => {
    expect([percent(0.0312), percent(0.98), percent(10.04), percent(null)]).toEqual(['0.031', '0.98', '10.0', '–'])
  })
})

describe('words', () => {
  it('name the place of a run', () => {
    expect(place({ load_ohms: 2, bridged: false })).toBe('2 Ω')
    expect(place({ load_ohms: 4, bridged: true })).toBe('4 Ω bridged')
  })

  it('say which conditions a document leaves out', () => {
    const usual = { watts: 400, supply_high_volts: null, total_of: null, driven_channels: null, load_stated: true }
    const bare = { ...usual, supply_volts: null, thd_n_percent: null, band_low_hz: null, band_high_hz: null }
    expect(conditions(bare as ClaimView)).toBe('no voltage · no THD+N limit · no band')
    const full = { ...usual, supply_volts: 14.4, thd_n_percent: 1, band_low_hz: 20, band_high_hz: 20000 }
    expect(conditions(full as ClaimView)).toBe('14.4 V · ≤ 1 % THD+N · 20–20000 Hz')
    const more = { supply_high_volts: 16, total_of: 4, driven_channels: 2, load_stated: false, band_high_hz: 20 }
    expect(conditions({ ...full, ...more, linked: true } as ClaimView)).toBe(
      'no load · 400 W in all of 4 · 2 driven · two linked units · 14.4 to 16 V · ≤ 1 % THD+N · 20 Hz',
    )
  })

  it('say in a sentence what a reach bar shows', () => {
    expect(reachInWords(reach)).toBe('main, 4 Ω bridged: certified 266.4 W ± 3.3 W; claim 240 W, Manual: backed')
    expect(reachInWords({ ...reach, certified_watts: null, notches: [] })).toBe('main, 4 Ω bridged: not tested')
  })

  it('exist for every verdict and every end', () => {
    expect(Object.values({ ...VERDICT_WORDS, ...END_WORDS }).every((word) => word.length > 3)).toBe(true)
    expect(new Set(Object.values(VERDICT_WORDS)).size).toBe(8)
    expect(new Set(Object.values(END_WORDS)).size).toBe(12)
  })
})

describe('a day', () => {
  it('without a time is that day in every time zone', async () => {
    for (const zone of ['America/Los_Angeles', 'UTC', 'Pacific/Kiritimati']) {
      vi.stubEnv('TZ', zone)
      vi.resetModules()
      const { day } = await import('./format')
      expect(day('2026-03-31')).toMatch(/31/)
      expect(day('2026-03-01')).toMatch(/\b0?1\b.*Mar|Mar.*\b0?1\b/)
    }
    vi.unstubAllEnvs()
  })
})
