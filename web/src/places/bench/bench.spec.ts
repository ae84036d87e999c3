// The pieces of the live bench: what they say in each state of a run.
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { AttemptView, CampaignView, PointView, RunView, VerdictView } from '../../api/types'
import BeforePower from './BeforePower.vue'
import ReadingSheet from './ReadingSheet.vue'
import RunLadder from './RunLadder.vue'

function run(changes: Partial<RunView> = {}): RunView {
  return {
    id: 1,
    position: 1,
    mode: 'certified',
    group: 'main',
    channels: [1, 2],
    load_ohms: 4,
    bridged: false,
    tone_hz: 1000,
    supply_volts: 14.4,
    companions: [],
    reason: 'serves 75 W (Manual)',
    state: 'waiting',
    attempts: [],
    chosen: null,
    verdicts: [],
    ...changes,
  }
}

function attempt(changes: Partial<AttemptView> = {}): AttemptView {
  return {
    id: 9,
    number: 1,
    reason: '',
    started_by: 'Joren Haldvik',
    started_at: '2026-11-23T20:00:00Z',
    end: 'limit',
    at_limit: true,
    fault: '',
    seconds: 14,
    readings: [1, 2].map((channel) => ({
      channel,
      watts: 80 + channel,
      volts_rms: 18,
      thd_n_percent: 0.9,
      thd_percent: 0.9,
      load_nominal: 4,
      load_measured: 3.99,
      load_off_percent: -0.2,
      expanded_watts: 1,
    })),
    weakest_watts: 81,
    average_watts: 81.5,
    expanded_watts: 1,
    bracket_db: 0.03,
    level_dbv: -2,
    start_volts: 14.4,
    supply_volts: 14.37,
    supply_lowest: 14.36,
    sag_volts: 0.03,
    supply_amps: 21.6,
    efficiency_percent: 51.7,
    temperature_c: 23.6,
    tripped_watts: null,
    ...changes,
  }
}

const point: PointView = {
  level_dbv: -6,
  phase: 'closing_in',
  over_limit: false,
  channels: [{ channel: 1, watts: 40, volts_rms: 12.6, thd_n_percent: 0.031, clipped_share: 0.06 }],
  weakest_watts: 40,
  average_watts: 40,
  worst_thd_n_percent: 0.031,
  supply_volts: 14.38,
  supply_lowest: 14.37,
  supply_amps: 12,
  efficiency_percent: null,
  temperature_c: 23.4,
}

describe('the ladder', () => {
  const routed = { global: { stubs: { RouterLink: true } } }

  it('shows each run with its watts, its trouble and why it is there', async () => {
    const runs = [
      run({ id: 1, state: 'done', chosen: attempt() }),
      run({ id: 2, load_ohms: 2, state: 'running' }),
      run({ id: 3, bridged: true, chosen: attempt({ end: 'protected', at_limit: false, weakest_watts: 55 }) }),
      run({ id: 4, chosen: attempt({ end: 'operator', at_limit: false, weakest_watts: null, readings: [] }) }),
    ]
    const wrapper = mount(RunLadder, { props: { runs, selected: 2 }, ...routed })
    const rungs = wrapper.findAll('button')
    expect(rungs[0]!.text()).toContain('81.0 W')
    expect(rungs[0]!.text()).toContain('serves 75 W (Manual)')
    expect(rungs[1]!.text()).toContain('running')
    expect(rungs[1]!.attributes('aria-current')).toBe('step')
    expect(rungs[2]!.text()).toContain('4 Ω bridged')
    expect(rungs[2]!.text()).toContain('protection tripped')
    expect(rungs[3]!.text()).toContain('stopped by operator')
    await rungs[3]!.trigger('click')
    expect(wrapper.emitted('select')).toEqual([[4]])
  })

  it('tells states by shape, not by colour alone', () => {
    const runs = (['done', 'running', 'waiting'] as const).map((state, id) => run({ id, state }))
    const marks = mount(RunLadder, { props: { runs, selected: null }, ...routed }).findAll('svg')
    expect(new Set(marks.map((mark) => mark.element.firstElementChild?.tagName)).size).toBeGreaterThan(1)
    expect(new Set(marks.map((mark) => mark.element.innerHTML)).size).toBe(3)
  })
})

describe('the reading sheet', () => {
  const claimed = () => 75
  const sheet = (props: { point?: PointView; attempt?: AttemptView; verdicts?: VerdictView[]; run?: RunView }) =>
    mount(ReadingSheet, {
      props: {
        run: props.run ?? run(),
        point: props.point ?? null,
        attempt: props.attempt ?? null,
        verdicts: props.verdicts ?? [],
        claimed,
      },
    })

  it('waits without figures', () => {
    const wrapper = sheet({})
    expect(wrapper.get('.state').text()).toBe('no reading yet')
    expect(wrapper.get('.main').text()).toBe('– W')
  })

  it('shows the point as it comes, with what the search is doing', () => {
    const wrapper = sheet({ point })
    expect(wrapper.get('.state').text()).toBe('closing in')
    expect(wrapper.get('.main').text()).toBe('40.0 W')
    expect(wrapper.get('tbody').text()).toContain('0.031')
    expect(wrapper.text()).toContain('14.38 V')
    expect(wrapper.text()).not.toContain('average')
  })

  it('shows the finished reading with ± U, supply before and at the reading', () => {
    const wrapper = sheet({ attempt: attempt(), point })
    expect(wrapper.get('.state').text()).toBe('certified, at the limit')
    expect(wrapper.get('.caption').text()).toContain('± 1.0 W')
    expect(wrapper.get('.caption').text()).toContain('average 81.5 W')
    expect(wrapper.text()).toContain('14.40 V')
    expect(wrapper.text()).toContain('14.37 V')
  })

  it('says where it tripped and what failed', () => {
    const tripped = attempt({
      end: 'protected',
      at_limit: false,
      tripped_watts: 82.4,
      fault: 'Bench 1 does not answer.',
    })
    const text = sheet({ attempt: tripped }).text()
    expect(text).toContain('protection tripped')
    expect(text).toContain('82.4 W')
    expect(text).toContain('Bench 1 does not answer.')
  })

  it('names bridged pairs and their verdicts', () => {
    const verdict = { claim_id: 3, kind: 'backed', reason: 'It is.' } as VerdictView
    const wrapper = sheet({ run: run({ bridged: true, channels: [1] }), attempt: attempt(), verdicts: [verdict] })
    expect(wrapper.get('tbody').text()).toContain('1 + 2')
    expect(wrapper.get('.verdicts').text()).toContain('75 W')
    expect(wrapper.get('.verdicts').text()).toContain('Backed')
  })
})

describe('before power', () => {
  const campaign = { test_controls: ['Gain to 1 V', 'Low-pass off'] } as CampaignView

  it('says what to connect, which controls to set, and the cautions', () => {
    const companions = [{ channel: 5, load_ohms: 4 }]
    const text = mount(BeforePower, { props: { campaign, run: run({ companions }) } }).text()
    expect(text).toContain('Channel 1 into 4 Ω')
    expect(text).toContain('Channel 5 into 4 Ω: loaded and driven, not read')
    expect(text).toContain('Low-pass off')
    expect(text).toContain("a disconnect within arm's reach")
    expect(text).toContain('power off first')
    expect(text).not.toContain('differential probe')
  })

  it('warns of floating outputs where pairs are bridged', () => {
    const text = mount(BeforePower, { props: { campaign, run: run({ bridged: true, channels: [1] }) } }).text()
    expect(text).toContain('Channels 1 + 2, bridged')
    expect(text).toContain('Use a differential probe')
  })
})
