// What is shown of a unit's inside and of listening to it: what is odd stands out, and says what it is not.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { expect, it, vi } from 'vitest'
import client from '../../api/client'
import InsideSection from './InsideSection.vue'
import ListeningSection from './ListeningSection.vue'
import SaidList from './SaidList.vue'

const plain = {
  plugins: [[VueQueryPlugin, { queryClient: new QueryClient({ defaultOptions: { queries: { retry: false } } }) }]],
  stubs: { AButton: { template: '<button><slot /></button>' } },
} as never
const answer = (data: unknown) => vi.spyOn(client, 'GET').mockResolvedValue({ data } as never)
const kept = (entry: object, more: object = {}) => ({
  id: 1,
  of_id: 1,
  number: 1,
  title: '',
  entry,
  by: 'Joren',
  at: '2026-11-20T10:00:00Z',
  closed: false,
  ...more,
})
const PART = { place: 'output device', count: 8, value: '', volts: 55, celsius: null, mark: 'NT 55', channels: [1, 2] }
const INSIDE = {
  made_safe: true,
  opened_on: '2026-11-03',
  board_revision: 'B2',
  parts: [PART],
  fuses: [
    { amps: 40, in_circuit: true, remark: '' },
    { amps: 40, in_circuit: false, remark: 'no trace leads to it' },
  ],
  fan_ran: false,
  remarks: '',
}

it('what is inside stands by place; a fuse without current stands out, closed records do not stand there', async () => {
  answer([kept(INSIDE), kept({ ...INSIDE, board_revision: 'B1' }, { id: 2, closed: true })])
  const section = mount(InsideSection, {
    props: { unit: 31, attention: ['1 of 2 fuses is in circuit.'], mayChange: false },
    global: plain,
  })
  await flushPromises()
  expect(section.get('[role="note"]').text()).toContain('1 of 2 fuses')
  expect(section.text()).toContain('Opened 2026-11-03, by Joren')
  expect(section.text()).toContain('55 V · marked “NT 55” · channel 1, 2')
  expect(section.findAll('.danger').map((one) => one.text())).toEqual(['not in circuit'])
  expect(section.text()).not.toContain('B1')
  expect(section.findAll('button')).toEqual([])
})

const SOUND = { sensor: 'head rest', doors_open: true, tone_hz: 42, meters: [] }
const listening = (more: object, entry: object = {}) =>
  kept(
    {
      on: '2026-11-20',
      source: 'a player',
      engine: 'engine running',
      supply_volts: 14.1,
      hours: null,
      sound: SOUND,
      wire: null,
      comparisons: [],
      remarks: '',
      ...entry,
    },
    { best: [], load: null, ear_protection: false, compared: [], ...more },
  )
const heard = async (unit: number, ...records: object[]) => {
  answer(records)
  const section = mount(ListeningSection, { props: { unit, siblings: [], mayChange: false }, global: plain })
  await flushPromises()
  return section
}

it('a listening record tells how, the best of repeats and the load, and is no evidence', async () => {
  const load = { impedance_ohms: 2.6, volt_amps: 301.5, watts: 258.5 }
  const best = [{ meter: 'M1', decibels: 131.97 }]
  const section = await heard(32, listening({ best, load, ear_protection: true }, { wire: { phase_degrees: 31 } }))
  const text = section.text()
  expect(text).toContain('never evidence for a rating')
  expect(text).toContain('a player · engine running · 14.1 V · 42 Hz · head rest · doors open')
  expect(text).toContain('131.97 dB')
  expect(text).toContain('258.5 W real of 301.5 VA, 31.0°')
  expect(section.get('[role="note"]').text()).toContain('Wear ear protection')
})

it('meters alone are said to tell no real power; a quiet record asks for no protection', async () => {
  const load = { impedance_ohms: 4, volt_amps: 100, watts: null }
  const section = await heard(33, listening({ load }, { wire: { phase_degrees: null }, sound: null }))
  expect(section.text()).toContain('100.0 VA: meters alone tell no real power')
  expect(section.find('[role="note"]').exists()).toBe(false)
})

it('what is long has a line of its own', () => {
  const said = [
    { label: 'fan', words: 'no' },
    { label: 'controls', words: 'x'.repeat(80) },
  ]
  const list = mount(SaidList, { props: { said } })
  expect(list.findAll('.said > div').map((one) => one.classes().includes('long'))).toEqual([false, true])
})
