// What which paper says: papers as rows, loads as columns, conflicts marked, what was measured beside.
import { mount, RouterLinkStub } from '@vue/test-utils'
import { expect, it } from 'vitest'
import type { DocumentView } from '../../api/kept'
import type { ClaimView, ModelView, ReachView } from '../../api/types'
import PapersPicture from './PapersPicture.vue'

const claim = (id: number, watts: number, document: string, more: Partial<ClaimView> = {}) =>
  ({
    id,
    watts,
    document,
    group: 'main',
    load_ohms: 4,
    bridged: false,
    kind: 'continuous',
    supply_volts: 14.4,
    thd_n_percent: 1,
    missing_conditions: [],
    conflicts_with: [],
    withdrawn: null,
    verdict: null,
    total_of: null,
    stands_at: null,
    ...more,
  }) as unknown as ClaimView
const reach = (ohms: number, certified: number | null, notches: { claim_id: number; watts: number }[] = []) =>
  ({
    group: 'main',
    load_ohms: ohms,
    bridged: false,
    certified_watts: certified,
    expanded_watts: certified ? 1.2 : null,
    notches,
    simulated: true,
  }) as unknown as ReachView
const paper = (id: number, name: string, file: string | null = null) =>
  ({ id, entry: { name, kind: 'manual', revision: 'C', dated: '2026-08-30', language: '', file } }) as DocumentView

const model = (claims: ClaimView[], reaches: ReachView[], units: (number | null)[] = []) =>
  ({
    claims,
    reaches,
    units: units.map((watts) => ({ reaches: reaches.map(() => ({ certified_watts: watts })) })),
  }) as unknown as ModelView
const shown = (one: ModelView, papers: DocumentView[], mayChange = true) =>
  mount(PapersPicture, {
    props: { model: one, papers, mayChange },
    global: { stubs: { RouterLink: RouterLinkStub, AButton: { template: '<button><slot /></button>' } } },
  })

it('puts each figure where its paper and its load meet, and marks what contradicts', () => {
  const claims = [
    claim(1, 75, 'Manual', { conflicts_with: [2], stands_at: 'page 3' }),
    claim(2, 90, 'Carton', { conflicts_with: [1] }),
    claim(3, 120, 'Manual', { load_ohms: 2 }),
  ]
  const picture = shown(model(claims, [reach(4, 80.6), reach(2, null)], [80.6]), [paper(1, 'manual')])
  const [manual, carton] = picture.findAll('tbody tr')
  expect(manual!.text()).toContain('75 W')
  expect(manual!.text()).toContain('against 90 W in Carton')
  expect(manual!.text()).toContain('page 3')
  expect(manual!.text()).toContain('120 W')
  expect(carton!.text()).toContain('90 W')
  expect(carton!.findAll('td')[1]!.text()).toBe('')
  // A paper's own record is found whatever the case of its name.
  expect(manual!.text()).toContain('manual, C, 2026-08-30')
  const measured = picture.get('tfoot').text()
  expect(measured).toContain('80.6 W')
  expect(measured).toContain('not yet')
  expect(measured).toContain('simulated')
})

it('leaves out loads that nobody speaks of, and shows papers without a figure last', () => {
  const picture = shown(model([claim(1, 75, 'Carton')], [reach(8, null), reach(4, null)]), [
    paper(1, 'Leaflet', 'a'.repeat(64)),
  ])
  expect(picture.findAll('thead th').map((one) => one.text())).toEqual(['Paper', 'main 4 Ω per channel'])
  const rows = picture.findAll('tbody tr')
  expect(rows.map((row) => row.get('th').text().split(/\s/)[0])).toEqual(['Carton', 'Leaflet'])
  expect(rows[1]!.get('a').attributes('href')).toBe(`/api/files/${'a'.repeat(64)}`)
})

it('draws what a paper states in total by what each channel has of it', () => {
  const total = claim(1, 300, 'Carton', { total_of: 4 })
  const picture = shown(model([total], [reach(4, 75, [{ claim_id: 1, watts: 75 }])], [75]), [])
  const left = (name: string) => (picture.get(name).attributes('style') ?? '').match(/left: ([\d.]+)%/)![1]
  expect(left('tbody .notch')).toBe(left('tbody .tick'))
})

it('lets a “maximum” far beyond the rest not squeeze it', () => {
  const claims = [claim(1, 75, 'Manual'), claim(2, 2500, 'Carton', { kind: 'maximum' })]
  const picture = shown(model(claims, [reach(4, 80)], [80]), [])
  const notches = picture.findAll('tbody .notch')
  expect(notches[1]!.classes()).toContain('beyond')
  expect(notches[0]!.attributes('style')).toContain('left: 83')
})

it('asks to change a paper only where that may be, and says which', async () => {
  const one = model([claim(1, 75, 'Manual')], [reach(4, null)])
  const picture = shown(one, [paper(7, 'Manual')])
  await picture.get('tbody button').trigger('click')
  expect(picture.emitted('change')![0]).toMatchObject([{ id: 7 }])
  expect(
    shown(one, [paper(7, 'Manual')], false)
      .find('tbody button')
      .exists(),
  ).toBe(false)
})
