// The campaign sheet's table: one line per run, by group and load, and nothing in it that was not measured.
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import type { AttemptView, CampaignView, Mode, RunView } from '../../api/types'
import SheetTable from './SheetTable.vue'

const attempt = (changes: Partial<AttemptView> = {}) =>
  ({
    id: 9,
    end: 'limit',
    at_limit: true,
    readings: [1, 2].map((channel) => ({ channel, watts: 80 + channel })),
    weakest_watts: 81,
    average_watts: 81.5,
    expanded_watts: 1,
    start_volts: 14.4,
    supply_volts: 14.37,
    sag_volts: 0.03,
    supply_amps: 21.6,
    efficiency_percent: 51.7,
    temperature_c: 23.6,
    tripped_watts: null,
    largest_watts: null,
    equivalent: null,
    ...changes,
  }) as AttemptView

const run = (mode: Mode, group: string, changes: Partial<RunView> = {}) =>
  ({
    id: Math.random(),
    mode,
    group,
    channels: [1, 2],
    channel_names: changes.bridged ? ['1 + 2', '3 + 4'] : ['1', '2'],
    load_ohms: 4,
    bridged: false,
    supply_volts: 14.4,
    exploratory: false,
    state: 'done',
    attempts: [{}],
    chosen: attempt(),
    headroom_db: null,
    verdicts: [],
    ...changes,
  }) as unknown as RunView

const table = (runs: RunView[], policy = 'held') =>
  mount(SheetTable, {
    props: { campaign: { runs, policy, claims: [{ id: 3, watts: 75 }] } as unknown as CampaignView },
    global: { stubs: { RouterLink: { template: '<a><slot /></a>' } } },
  })

it('puts all modes of a load together, and all loads of a group', () => {
  const wrapper = table([
    run('certified', 'main'),
    run('certified', 'bass'),
    run('burst', 'main'),
    run('certified', 'main', { load_ohms: 2 }),
  ])
  const loads = wrapper.findAll('tbody').map((body) => body.get('.load').text())
  expect(loads).toEqual(['4 Ωmain', '2 Ωmain', '4 Ωbass'])
  expect(wrapper.findAll('tbody')[0]!.findAll('tr')).toHaveLength(2)
})

it('shows neither amps nor efficiency of a burst, but its headroom and its largest', () => {
  const burst = attempt({ supply_amps: null, efficiency_percent: null, largest_watts: 130.2 })
  const text = table([run('burst', 'main', { chosen: burst, headroom_db: 0.17 })])
    .get('tbody')
    .text()
  expect(text).toContain('+0.17')
  expect(text).toContain('at onset; largest 130.2 W')
  expect(text).not.toContain('21.6')
})

it('says where it tripped, what is no evidence, and what is not run yet', () => {
  const tripped = attempt({ end: 'protected', at_limit: false, tripped_watts: 74.2 })
  const wrapper = table([
    run('certified', 'main', { chosen: tripped }),
    run('burst', 'main', { load_ohms: 1, exploratory: true, chosen: null, state: 'waiting', attempts: [] }),
  ])
  expect(wrapper.get('.end.danger').text()).toBe('protection tripped at 74.2 W')
  expect(wrapper.findAll('tbody')[1]!.text()).toContain('not evidence')
  expect(wrapper.findAll('tbody')[1]!.text()).toContain('not run yet')
})

it('gives bridged equivalents, each voltage of three points, and verdicts by shape and word', () => {
  const verdict = { claim_id: 3, kind: 'backed', reason: 'It is.', doubts: [] as string[] }
  const runs = [
    run('certified', 'main', { bridged: true, chosen: attempt({ equivalent: '2 × 40.5 W at 2 Ω' }) }),
    run('certified', 'main', { supply_volts: 12.5, verdicts: [verdict] as RunView['verdicts'] }),
  ]
  const wrapper = table(runs, 'three_points')
  expect(wrapper.findAll('tbody')[0]!.text()).toContain('as 2 × 40.5 W at 2 Ω')
  expect(wrapper.findAll('tbody')[0]!.get('.channels span').attributes('title')).toBe('channel 1 + 2')
  expect(wrapper.findAll('tbody')[1]!.text()).toContain('12.5 V')
  expect(wrapper.get('.verdict').text()).toContain('75 W')
  expect(wrapper.get('.verdict [role="img"]').attributes('aria-label')).toBe('Backed')
})
