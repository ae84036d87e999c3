// The planner's pieces: what they show of a plan, and what they ask for when somebody changes it.
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { PlannedRunView, PlanView, RunIn } from '../../api/types'
import type { Draft } from './planDraft'
import PlanRuns from './PlanRuns.vue'
import PlanWishes from './PlanWishes.vue'
import RunEditor from './RunEditor.vue'

const BUTTON = { global: { stubs: { AButton: { template: '<button><slot /></button>' } } } }

function planned(changes: Partial<PlannedRunView> = {}, spec: Partial<RunIn> = {}): PlannedRunView {
  return {
    spec: {
      mode: 'certified',
      group: 'main',
      load_ohms: 4,
      bridged: false,
      tone_hz: 1000,
      supply_volts: 14.4,
      burst: '',
      watts: null,
      ...spec,
    },
    under_test: [{ channels: [1], ohms: 4 }],
    wiring: 1,
    exploratory: false,
    serves: [1],
    reason: 'serves 75 W (Manual)',
    watts: 75,
    basis: 'claimed: 75 W, Manual',
    amps: 18.9,
    volts_before: 14.4,
    volts_loaded: 14.38,
    cable_volts: 0.02,
    cable_watts: 0.4,
    fuse_percent: 31.5,
    fuse_stress_percent: 0,
    heat: [
      { connection: { channels: [1], ohms: 4 }, boxes: '4 Ω box', watts: 75, celsius: 26.4 },
      { connection: { channels: [2], ohms: 4 }, boxes: '4 Ω box', watts: 9, celsius: 23.4 },
    ],
    minutes: 0.25,
    cooling_minutes: 0.5,
    obstacles: [],
    ...changes,
  }
}

function plan(runs: PlannedRunView[]): PlanView {
  return {
    groups: [
      { name: 'main', rated_loads: [4, 2], bridged_loads: [4], pairs: [{}], tone_hz: 1000, burst: '1 kHz' },
      { name: 'bass', rated_loads: [4], bridged_loads: [], pairs: [], tone_hz: 40, burst: '40 Hz' },
    ],
    defaults: {
      supply_volts: 14.4,
      thd_n_limit_percent: 1,
      bursts: ['1 kHz', '40 Hz'],
      three_points: [12.5, 13.8, 14.4],
    },
    supply_low_volts: 10.5,
    supply_high_volts: 16,
    wirings: [
      { number: 1, connections: [1, 2].map((c) => ({ channels: [c], ohms: 4 })), boxes: [], exploratory: false },
      { number: 2, connections: [{ channels: [1, 2], ohms: 4 }], boxes: [], exploratory: false },
    ],
    runs,
  } as unknown as PlanView
}

const draft: Draft = {
  modes: ['certified', 'burst'],
  order: 'by_load',
  loading: 'each',
  policy: 'held',
  held_volts: null,
  tones: {},
  bursts: {},
  exploratory: false,
  dwell: 'standard',
  thd_n_limit: 1,
  method: null,
  bench: null,
  runs: null,
  proposed: [],
  isStale: false,
}

describe('the planned runs', () => {
  const runs = [
    planned(),
    planned({ wiring: 2 }, { bridged: true }),
    planned({
      wiring: 2,
      exploratory: true,
      obstacles: [{ code: 'fuse', what: '2.0 × the fuses', remedy: 'A shorter dwell.' }],
    }),
  ]
  const list = () => mount(PlanRuns, { props: { plan: plan(runs) }, ...BUTTON })

  it('stand under their wirings with what they ask of the bench', () => {
    const wrapper = list()
    expect(wrapper.findAll('tr.wiring').map((row) => row.text())).toEqual([
      'Wiring 1 1 and 2 into 4 Ω',
      'Wiring 2 1 + 2 bridged into 4 Ω',
    ])
    const cells = wrapper.findAll('tr.run')[0]!.findAll('td.num')
    expect(cells.map((cell) => cell.text())).toEqual(['1', '14.4', '75.0', '19', '14.38', '32', '26', '0.8'])
    expect(cells[2]!.attributes('title')).toBe('claimed: 75 W, Manual')
    expect(wrapper.findAll('tr.run')[2]!.text()).toContain('not evidence')
  })

  it('say what stands in the way, and what would help', () => {
    expect(list().get('tr.obstacle').text()).toContain('2.0 × the fuses. A shorter dwell.')
    expect(list().findAll('tr.obstacle')).toHaveLength(1)
  })

  it('are moved, dropped and changed from the keyboard', async () => {
    const wrapper = list()
    const second = wrapper.findAll('tr.run')[1]!
    await second.trigger('keydown', { key: 'ArrowUp', altKey: true })
    await second.trigger('keydown', { key: 'ArrowUp' })
    await second.trigger('keydown', { key: 'Delete' })
    expect(wrapper.emitted('move')).toEqual([[1, -1]])
    expect(wrapper.emitted('drop')).toEqual([[1]])
    await second.trigger('keydown', { key: 'Enter' })
    await wrapper.get('.editor .number-field input').setValue('3')
    await wrapper.get('.editor').trigger('submit')
    expect(wrapper.emitted('edit')).toEqual([[1, { ...runs[1]!.spec, load_ohms: 3 }]])
    expect(wrapper.find('.editor').exists()).toBe(false)
  })

  it('cannot leave the list at its ends', () => {
    const buttons = list().findAll('.acts button')
    expect(buttons[0]!.attributes('disabled')).toBeDefined() // the first one up
    expect(buttons.at(-3)!.attributes('disabled')).toBeDefined() // the last one down
  })
})

describe('the run editor', () => {
  const editor = (spec: Partial<RunIn>) =>
    mount(RunEditor, {
      props: { spec: planned({}, spec).spec, groups: plan([]).groups, defaults: plan([]).defaults, act: 'Add the run' },
      ...BUTTON,
    })

  it('never bridges a single channel, and names a burst in burst mode', async () => {
    const wrapper = editor({ bridged: true })
    const lists = wrapper.findAllComponents({ name: 'PickOne' })
    lists[1]!.vm.$emit('update:modelValue', 'bass')
    lists[0]!.vm.$emit('update:modelValue', 'burst')
    await wrapper.get('form').trigger('submit')
    expect(wrapper.emitted('done')![0]![0]).toMatchObject({ group: 'bass', bridged: false, burst: '40 Hz' })
  })

  it('does not take a load of nothing', async () => {
    const wrapper = editor({})
    await wrapper.get('.number-field input').setValue('0')
    await wrapper.get('form').trigger('submit')
    expect(wrapper.emitted('done')).toBeUndefined()
  })
})

describe('the wishes', () => {
  const { groups, defaults } = plan([])
  const wishes = (problem?: unknown) =>
    mount(PlanWishes, { props: { draft, groups, defaults, supply: [10.5, 16], benches: ['Bench 1'], problem } })
  const field = (wrapper: ReturnType<typeof wishes>, label: string) =>
    wrapper.findAll('.number-field').find((one) => one.get('label').text() === label)!

  it('keep the modes in their order, whatever the order they are chosen in', async () => {
    const wrapper = wishes()
    const boxes = wrapper.findAll('fieldset input')
    expect(boxes.map((box) => (box.element as HTMLInputElement).checked)).toEqual([true, false, true, false])
    await boxes[1]!.trigger('change')
    await boxes[0]!.trigger('change')
    expect(wrapper.emitted('wish')).toEqual([
      ['modes', ['certified', 'uncertified', 'burst']],
      ['modes', ['burst']],
    ])
  })

  it('give each group a tone of its own; a typo marks its field and wishes nothing', async () => {
    const wrapper = wishes()
    const [main, bass] = ['Tone, main, Hz', 'Tone, bass, Hz'].map((label) => field(wrapper, label).get('input'))
    expect([main, bass].map((one) => (one!.element as HTMLInputElement).value)).toEqual(['1000', '40'])
    await bass!.setValue('50')
    expect(wrapper.emitted('wish')).toEqual([['tones', { bass: 50 }]])
    for (const typo of ['', 'abc', '5', '1,000.0']) await main!.setValue(typo)
    expect(wrapper.emitted('wish')).toHaveLength(1)
    expect(main!.attributes('aria-invalid')).toBe('true')
    expect(field(wrapper, 'Tone, main, Hz').get('[role="alert"]').text()).toContain('without signs between thousands')
  })

  it('what the server refuses stands at its field', () => {
    const told = wishes({ problem: { what: 'This model takes 10.5 to 16 V, not 30 V.', field: 'supply_volts' } })
    expect(field(told, 'Held at, V').get('[role="alert"]').text()).toContain('10.5 to 16 V')
  })
})
