// The pieces of the live bench: what they say in each state of a run.
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type {
  AttemptView,
  CampaignView,
  ConnectionView,
  PointView,
  PreparationView,
  RunView,
  VerdictView,
} from '../../api/types'
import BeforePower from './BeforePower.vue'
import { firstOfWiring, nextItem } from './beforePower'
import PulseChart from './PulseChart.vue'
import ReadingSheet from './ReadingSheet.vue'
import RunLadder from './RunLadder.vue'

function run(changes: Partial<RunView> = {}): RunView {
  return {
    id: 1,
    position: 1,
    mode: 'certified',
    group: 'main',
    channels: [1, 2],
    channel_names: ['1', '2'],
    load_ohms: 4,
    bridged: false,
    tone_hz: 1000,
    supply_volts: 14.4,
    burst: '',
    companions: [],
    hold_watts: null,
    proof: '',
    exploratory: false,
    wiring: 1,
    predicted_watts: 78,
    predicted_amps: 22,
    predicted_minutes: 0.4,
    reason: 'serves 75 W (Manual)',
    state: 'waiting',
    attempts: [],
    chosen: null,
    choice: null,
    differences: [],
    headroom_db: null,
    headroom_expanded_db: null,
    verdicts: [],
    ...changes,
  }
}

function attempt(changes: Partial<AttemptView> = {}): AttemptView {
  return {
    id: 9,
    number: 1,
    origin: 'bench',
    read_again: '',
    simulated: false,
    instrument: '',
    file: '',
    cause: null,
    reason: '',
    circumstances: [],
    companions_full: null,
    average_expanded_watts: null,
    sag_expanded_volts: null,
    efficiency_expanded_percent: null,
    withdrawn: null,
    remarks: [],
    findings: [],
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
      nominal_watts: 80 + channel,
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
    load_c: 24.1,
    tripped_watts: null,
    largest_watts: null,
    equivalent: null,
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
  load_c: 24,
}

describe('the ladder', () => {
  const ladder = (runs: RunView[], selected: number | null) => mount(RunLadder, { props: { runs, selected } })

  it('shows each run with its watts, its trouble, and why the selected one is there', async () => {
    const runs = [
      run({ id: 1, state: 'done', chosen: attempt() }),
      run({ id: 2, load_ohms: 2, state: 'running' }),
      run({ id: 3, bridged: true, chosen: attempt({ end: 'protected', at_limit: false, weakest_watts: 55 }) }),
      run({ id: 4, chosen: attempt({ end: 'operator', at_limit: false, weakest_watts: null, readings: [] }) }),
      run({ id: 5, exploratory: true }),
    ]
    const wrapper = ladder(runs, 2)
    const rungs = wrapper.findAll('button')
    expect(rungs[0]!.text()).toContain('81.0 W')
    expect(rungs[0]!.text()).not.toContain('serves')
    expect(rungs[1]!.text()).toContain('running')
    expect(rungs[1]!.text()).toContain('serves 75 W (Manual)')
    expect(rungs[1]!.attributes('aria-current')).toBe('step')
    expect(rungs[2]!.text()).toContain('4 Ω bridged')
    expect(rungs[2]!.get('.danger').attributes('title')).toBe('protection tripped')
    expect(rungs[3]!.text()).toContain('stopped by operator')
    expect(rungs[4]!.text()).toContain('~78.0 W') // what the plan expects
    await rungs[3]!.trigger('click')
    expect(wrapper.emitted('select')).toEqual([[4]])
    expect(ladder(runs, 5).findAll('button')[4]!.text()).toContain('not evidence')
  })

  it('stands in stretches of one wiring, each with its time left', () => {
    const runs = [
      run({ id: 1, wiring: 1, state: 'done', chosen: attempt() }),
      run({ id: 2, wiring: 1, predicted_minutes: 2.2 }),
      run({ id: 3, wiring: 2, predicted_minutes: 5 }),
      run({ id: 4, wiring: 1, predicted_minutes: 1 }),
    ]
    const heads = ladder(runs, null).findAll('h3')
    expect(heads.map((head) => head.text().replace(/\s+/g, ' '))).toEqual([
      '1 Wiring 1 2 min left',
      '2 Wiring 2 5 min left',
      '1 Wiring 1 1 min left',
    ])
  })

  it('tells modes by shape, not by colour alone', () => {
    const runs = (['certified', 'uncertified', 'burst'] as const).map((mode, id) => run({ id, mode }))
    const marks = ladder(runs, null).findAll('svg')
    expect(new Set(marks.map((mark) => mark.element.innerHTML)).size).toBe(3)
    expect(marks.map((mark) => mark.attributes('aria-label'))).toEqual(['Certified', 'Uncertified', 'Burst'])
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
        rule: 'guarded',
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
    const verdict = { claim_id: 3, kind: 'backed', reason: 'It is.', doubts: [] as string[] } as VerdictView
    const wrapper = sheet({
      run: run({ bridged: true, channels: [1], channel_names: ['1 + 2'] }),
      attempt: attempt(),
      verdicts: [verdict],
    })
    expect(wrapper.get('tbody').text()).toContain('1 + 2')
    expect(wrapper.get('.verdicts').text()).toContain('75 W')
    expect(wrapper.get('.verdicts').text()).toContain('Backed')
  })
})

describe('before power', () => {
  const open = ['clamp', 'loads', 'controls', 'gains', 'supply'].map((item) => ({
    item,
    state: 'open' as const,
    found: '',
    lapsed: '',
    deviations: [] as number[],
    by: null,
    at: null,
  }))
  const campaignWith = (preparations: PreparationView[], connections: ConnectionView[]) =>
    ({
      policy: 'held',
      test_controls: ['Gain to 1 V', 'Low-pass off'],
      wirings: [{ number: 1, connections, boxes: connections.map(() => '4 Ω box'), exploratory: false, preparations }],
    }) as unknown as CampaignView
  const each = [1, 2, 5].map((channel) => ({ channels: [channel], ohms: 4 }))
  const list = (campaign: CampaignView, props: Partial<{ run: RunView; gainsApart: boolean }> = {}) =>
    mount(BeforePower, {
      props: {
        campaign,
        run: props.run ?? run(),
        next: nextItem(campaign, run()),
        busy: false,
        gainsApart: props.gainsApart ?? false,
      },
      global: {
        stubs: { AButton: { template: '<button><slot /></button>' }, OtherBench: true },
      },
    })

  it('draws which channel goes to which load, and which are only driven', () => {
    const wrapper = list(campaignWith(open, each))
    expect(wrapper.get('svg').attributes('aria-label')).toContain(
      'channel 2 into 4 Ω, channel 5 into 4 Ω; supply 14.4 V',
    )
    expect(wrapper.findAll('.companion')).toHaveLength(1)
    expect(wrapper.get('.companion').text()).toContain('driven, not read')
    expect(wrapper.text()).toContain("a disconnect within arm's reach")
    expect(wrapper.text()).not.toContain('differential probe')
  })

  it('leads to the next open item, and lets it be skipped', async () => {
    const done = { ...open[0]!, state: 'done' as const, found: 'reads +1.70 A', by: 'Joren Haldvik' }
    const skipped = { ...open[1]!, state: 'skipped' as const, found: 'known', by: 'Joren Haldvik' }
    const wrapper = list(campaignWith([done, skipped, ...open.slice(2)], each))
    expect(wrapper.get('[data-state="done"]').text()).toContain('reads +1.70 A')
    expect(wrapper.get('[data-state="skipped"]').text()).toContain('skipped: known')
    const current = wrapper.get('.list > li[aria-current]')
    expect(current.text()).toContain('Low-pass off')
    await current.get('button').trigger('click')
    expect(wrapper.emitted('skip')).toEqual([['controls']])
  })

  it('has each control ticked by its name', async () => {
    const done = open.map((item) => (item.item === 'controls' ? item : { ...item, state: 'done' as const }))
    const wrapper = list(campaignWith(done, each))
    const boxes = wrapper.findAll('.list > li[aria-current] input[type="checkbox"]')
    expect(boxes).toHaveLength(2)
    await boxes[1]!.setValue(true)
    expect(wrapper.emitted('update:ticked')!.at(-1)).toEqual([['Low-pass off']])
    expect(wrapper.emitted('see')).toBeUndefined() // one is not all
  })

  it('offers to turn gains that were found apart', async () => {
    const done = open.map((item) => (item.item === 'gains' ? item : { ...item, state: 'done' as const }))
    const wrapper = list(campaignWith(done, each), { gainsApart: true })
    const turn = wrapper.get('.list > li[aria-current] button')
    expect(turn.text()).toBe('Turn them on the unit')
    await turn.trigger('click')
    expect(wrapper.emitted('see')).toEqual([['gains', true]])
  })

  it('warns of floating outputs where pairs are bridged', () => {
    const bridged = run({ bridged: true, channels: [1], channel_names: ['1 + 2'] })
    const wrapper = list(campaignWith(open, [{ channels: [1, 2], ohms: 4 }]), { run: bridged })
    expect(wrapper.get('svg').attributes('aria-label')).toContain('channels 1 + 2 bridged into 4 Ω')
    expect(wrapper.text()).toContain('Use a differential probe')
  })

  it('knows which run of a wiring comes first', () => {
    const runs = [
      run({ id: 1, wiring: 1, state: 'done' }),
      run({ id: 2, wiring: 1 }),
      run({ id: 3, wiring: 2, state: 'done' }),
    ]
    expect(firstOfWiring(runs, 1)?.id).toBe(2)
    expect(firstOfWiring(runs, 2)?.id).toBe(3)
    expect(firstOfWiring(runs, 3)).toBeUndefined()
  })
})

describe('the burst as it came', () => {
  it('draws the outline and the window that is read', () => {
    const pulses = {
      channel: 1,
      milliseconds: 24,
      volts: [2, -2, 20, -18, 2, -2],
      windows_ms: [[9, 15]],
      peak_volts: 20,
    }
    const wrapper = mount(PulseChart, { props: { pulses, height: 90 } })
    expect(wrapper.get('svg').attributes('aria-label')).toBe('Burst at channel 1, 20.0 V peak; read for 6 ms of it')
    const window = wrapper.get('rect.window').attributes()
    expect(Number(window.x)).toBeCloseTo((640 * 9) / 24)
    expect(Number(window.width)).toBeCloseTo((640 * 6) / 24)
  })
})
