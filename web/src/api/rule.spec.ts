// The decision rule in force stands in the address, wherever one goes and however it was changed.
import { mount } from '@vue/test-utils'
import { nextTick } from 'vue'
import { afterEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import { keepRuleInAddress, ruled, useRule } from './rule'

const rule = useRule()
async function begin(path: string) {
  const routes = [
    { path: '/', redirect: '/line' },
    { path: '/:rest(.*)*', component: { template: '<i />' } },
  ]
  const router = createRouter({ history: createMemoryHistory(), routes })
  keepRuleInAddress(router)
  mount({ template: '<RouterView />' }, { global: { plugins: [router] } })
  await router.push(path)
  await nextTick()
  return router
}
const at = (path: string) => (router: Awaited<ReturnType<typeof begin>>) =>
  vi.waitFor(() => expect(router.currentRoute.value.fullPath).toBe(path))
afterEach(() => (rule.value = 'as_stored'))

it('an address that names a rule sets it, and stays where it leads', async () => {
  const router = await begin('/models/1?rule=simple')
  await at('/models/1?rule=simple')(router)
  expect([rule.value, ruled()]).toEqual(['simple', { rule: 'simple' }])
  await router.push('/units/2?sort=watts')
  await at('/units/2?sort=watts&rule=simple')(router)
})

it('a rule that is chosen is written into the address, the usual one is not', async () => {
  const router = await begin('/line?state=short')
  expect(ruled()).toEqual({})
  rule.value = 'guarded'
  await at('/line?state=short&rule=guarded')(router)
  rule.value = 'as_stored'
  await at('/line?state=short')(router)
})

it('a rule that is none is no rule', async () => {
  await begin('/line?rule=nonsense')
  expect(rule.value).toBe('as_stored')
})
