// Attempts with their differences, and the budget behind ± U.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import type { BudgetView, RunView } from '../../api/types'
import { createMemoryHistory, createRouter } from 'vue-router'
import AttemptsList from './AttemptsList.vue'
import BudgetTable from './BudgetTable.vue'

const attempt = (id: number, changes = {}) => ({
  id,
  number: id,
  weakest_watts: 60,
  supply_volts: 12.58,
  at_limit: true,
  end: 'limit',
  cause: null,
  reason: '',
  started_by: 'Joren',
  started_at: '2026-11-23T20:00:00Z',
  ...changes,
})

it('lists attempts with how far they are from the one that stands, and why each was made', async () => {
  const run = {
    attempts: [attempt(1, { weakest_watts: 49.6 }), attempt(2, { cause: 'gains', reason: 'Pots moved' })],
    chosen: attempt(2),
    choice: null,
    differences: [{ attempt_id: 1, db: -0.83, percent: -17.4 }],
  } as unknown as RunView
  const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/:rest(.*)*', component: {} }] })
  await router.push('/attempts/2')
  const wrapper = mount(AttemptsList, {
    props: { run, shown: 2 },
    global: {
      plugins: [router, [VueQueryPlugin, { queryClient: new QueryClient() }]],
      stubs: {
        ReasonDialog: true,
      },
    },
  })
  const [first, second] = wrapper.findAll('tbody tr')
  expect(first!.text()).toContain('−0.83 dB, −17.4 %')
  expect(first!.find('button').exists()).toBe(true)
  expect(first!.get('a.whole').attributes('href')).toBe('/attempts/1')
  expect(second!.text()).toContain('stands for the run')
  expect(second!.text()).toContain('Gains were not matched: Pots moved')
  expect(second!.find('button').exists()).toBe(false)
  expect([second!.classes('shown'), second!.find('a').exists()]).toEqual([true, false])
})

it('shows a budget down to U, with its k and degrees of freedom', async () => {
  const line = { value: 15.55, unit: 'V', distribution: 'rectangular', half_width: 0.00778, divisor: 1.732 }
  const budget: BudgetView = {
    channel: 1,
    watts: 60.3,
    standard_watts: 0.38,
    freedom: 12.7,
    coverage_factor: 2.179,
    expanded_watts: 0.83,
    components: [
      { ...line, name: 'load', sensitivity: -15.1, watts: 0.348, freedom: null },
      { ...line, name: 'repeatability', sensitivity: 1, watts: 0.12, freedom: 3 },
    ],
  }
  const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/:rest(.*)*', component: {} }] })
  await router.push('/attempts/2')
  const wrapper = mount(BudgetTable, { props: { budget }, global: { plugins: [router] } })
  const rows = wrapper.findAll('tbody tr, tfoot tr').map((row) => row.text())
  expect(rows[0]).toContain('−15.1')
  expect(rows[0]).toContain('not limited')
  expect(rows[1]).toMatch(/0\.120.*3$/)
  expect(rows[2]).toContain('k = 2.18')
  expect(rows[2]).toContain('13 effective degrees of freedom')
  expect(rows[2]).toContain('60.30 ± 0.83 W')
})
