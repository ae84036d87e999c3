import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { reactive } from 'vue'
import type { FoundView, GroupView, VerdictView } from '../../api/types'
import SettleLink from '../../trade/SettleLink.vue'
import FileDrop from '../../kit/FileDrop.vue'
import RecordingChart from './RecordingChart.vue'
import { BLANK_RUN } from './outsideRun'
import type { OutsideRun } from './outsideRun'
import RunFields from './RunFields.vue'

const found: FoundView = {
  kind: 'sweep',
  tone_hz: 1000,
  seconds: 4,
  burst: '',
  envelopes: [{ channel: 2, lows: [-5, -20, -10, -1], highs: [5, 20.5, 10, 1], peak_volts: 20.5 }],
  sections: [
    { start: 1, stop: 2, window: [1.1, 1.9], weakest_watts: 50, worst_thd_n_percent: 0.5, chosen: true },
    { start: 2, stop: 3, window: [2.1, 2.9], weakest_watts: 12, worst_thd_n_percent: 0.1, chosen: false },
  ],
}

describe('the chart of a recording', () => {
  it('says what it shows, and marks the stretch whose reading stands', () => {
    const chart = mount(RecordingChart, { props: { found, channel: 2 } })
    expect(chart.get('svg').attributes('aria-label')).toBe('Channel 2 over 4.0 s, 20.5 V peak, 2 stretches found')
    const bands = chart.findAll('rect.band')
    expect(bands.map((b) => b.classes('chosen'))).toEqual([true, false])
    expect(bands.map((b) => [b.attributes('x'), b.attributes('width')])).toEqual([
      ['250', '250'],
      ['500', '250'],
    ])
    expect(chart.get('.ends').text()).toMatch(/^0\.0 s.*4\.0 s$/)
  })

  it('an envelope that is not there draws nothing and fails nothing', () => {
    expect(
      mount(RecordingChart, { props: { found, channel: 7 } })
        .get('.wave')
        .attributes('d'),
    ).toBe('MZ')
  })
})

describe('where a file is dropped', () => {
  it('takes the first file, and shows that it is over the field', async () => {
    const field = mount(FileDrop, { props: { accept: '.csv' }, slots: { default: 'Drop' } })
    await field.trigger('dragover')
    expect(field.classes('over')).toBe(true)
    const file = new File(['a'], 'a.csv')
    await field.trigger('drop', { dataTransfer: { files: [file] } })
    expect(field.emitted('file')).toEqual([[file]])
    expect(field.classes('over')).toBe(false)
    await field.trigger('drop', { dataTransfer: { files: [] } })
    expect(field.emitted('file')).toHaveLength(1)
  })
})

describe('the run of a reading from outside', () => {
  const defaults = { supply_volts: 14.4, thd_n_limit_percent: 1, bursts: ['1 kHz', '40 Hz'], three_points: [] }
  const pairsOf = (channels: number[]) =>
    channels.length > 1 ? [{ channel: channels[0]!, name: channels.join(' + ') }] : []
  const group = (name: string, channels: number[]) => ({
    name,
    channels,
    rated_loads: [4],
    bridged_loads: [],
    bass: name === 'bass',
    topology: '',
    band_low_hz: null,
    band_high_hz: null,
    singles: channels.map((channel) => ({ channel, name: String(channel) })),
    pairs: pairsOf(channels),
    tone_hz: name === 'bass' ? 40 : 1000,
    burst: name === 'bass' ? '40 Hz' : '1 kHz',
  })
  const fields = (modelValue: OutsideRun, groups: GroupView[]) =>
    mount(RunFields, { props: { modelValue, groups, defaults } })

  it('asks for the group only where there are several, for bridging only where there are pairs', () => {
    const one = fields({ ...BLANK_RUN }, [group('bass', [1])])
    expect(one.text()).not.toContain('Group')
    expect(one.text()).not.toContain('bridged')
    const two = fields({ ...BLANK_RUN }, [group('main', [1, 2]), group('bass', [3])])
    expect(two.text()).toContain('Group')
    expect(two.text()).toContain('bridged pairs')
  })

  it('what the method proposes for a group stands in the fields, unless somebody wrote something else', async () => {
    const groups = [group('main', [1, 2]), group('bass', [3])]
    const sheet = reactive({ ...BLANK_RUN })
    const form = fields(sheet, groups)
    expect([sheet.tone, sheet.burst]).toEqual([1000, '1 kHz'])
    sheet.group = 'bass'
    await form.setProps({ modelValue: { ...sheet } })
    const seen = form.props('modelValue')
    expect([seen.tone, seen.burst]).toEqual([40, '40 Hz'])
    await form.setProps({ modelValue: { ...seen, tone: 55, group: 'main' } })
    expect(form.props('modelValue').tone).toBe(55)
  })

  it('the volts are asked of a held supply; a bank is known by what it started from', () => {
    expect(fields({ ...BLANK_RUN }, [group('main', [1])]).text()).toContain('Held at')
    expect(fields({ ...BLANK_RUN, policy: 'bank' }, [group('main', [1])]).text()).not.toContain('Held at')
  })
})

describe('the link to the run that would settle a verdict', () => {
  const verdict = (settling_limit: number | null) =>
    ({
      settle: 'A certified run.',
      settling_runs: [{ mode: 'certified', load_ohms: 4 }],
      settling_limit,
    }) as unknown as VerdictView
  const link = (limit: number | null) =>
    mount(SettleLink, {
      props: { verdict: verdict(limit), unitId: 3 },
      global: { stubs: { RouterLink: { props: ['to'], template: '<a :data-to="JSON.stringify(to)"><slot /></a>' } } },
    })

  it('brings the run and the limit of the claim along', () => {
    const to = JSON.parse(link(0.1).get('a').attributes('data-to')!)
    expect(to.path).toBe('/units/3/plan')
    expect(JSON.parse(to.query.add)).toEqual([{ mode: 'certified', load_ohms: 4 }])
    expect(to.query.limit).toBe('0.1')
    expect(JSON.parse(link(null).get('a').attributes('data-to')!).query).not.toHaveProperty('limit')
  })
})
