// Search and go: opened by a key, moved through by keys, gone at Escape without reaching the bench.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { nextTick } from 'vue'
import { afterEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import api from '../api/client'
import GoBox from './GoBox.vue'

const LINE = { series: [{ models: [{ id: 3, name: 'Cobblewick Q4', description: '4 channels' }] }] }
const CAMPAIGNS = { items: [{ id: 7, unit_id: 5, unit_serial: 'CQ4-0251', model_name: 'Cobblewick Q4' }] }

async function box() {
  vi.spyOn(api, 'GET').mockImplementation(((path: string) =>
    Promise.resolve({ data: path === '/api/line' ? LINE : CAMPAIGNS })) as never)
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)*', component: { template: '<p />' } }],
  })
  const queryClient = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const wrapper = mount(GoBox, {
    attachTo: document.body,
    global: { plugins: [router, [VueQueryPlugin, { queryClient }]] },
  })
  window.dispatchEvent(new KeyboardEvent('keydown', { key: '/' }))
  await vi.waitFor(() => expect(wrapper.text()).toContain('Cobblewick Q4'))
  return { wrapper, router }
}
afterEach(() => {
  document.body.innerHTML = ''
})

it('finds by any part of a name, whatever the order of the words', async () => {
  const { wrapper } = await box()
  await wrapper.get('input').setValue('q4 cobble')
  expect(wrapper.findAll('[role="option"]').map((o) => o.text())).toEqual([
    'Cobblewick Q4 4 channels',
    'CQ4-0251 unit, Cobblewick Q4',
  ])
  await wrapper.get('input').setValue('0251 live')
  expect(wrapper.findAll('[role="option"]').map((o) => o.text())).toEqual(['Campaign 7, live CQ4-0251, bench'])
  await wrapper.get('input').setValue('nowhere')
  expect(wrapper.text()).toContain('Nothing by that name.')
})

it('is moved through and chosen from the keyboard', async () => {
  const { wrapper, router } = await box()
  const push = vi.spyOn(router, 'push')
  await wrapper.get('input').setValue('cobble')
  await wrapper.get('input').trigger('keydown', { key: 'ArrowDown' })
  await wrapper.get('input').trigger('keydown', { key: 'ArrowDown' })
  expect(wrapper.findAll('[aria-selected="true"]').map((o) => o.text())).toEqual(['CQ4-0251 unit, Cobblewick Q4'])
  await wrapper.get('input').trigger('keydown', { key: 'Enter' })
  expect(push).toHaveBeenCalledWith('/units/5')
  expect(wrapper.find('[role="dialog"]').exists()).toBe(false)
})

it('closes at Escape, which never reaches the bench as “off”', async () => {
  const { wrapper } = await box()
  const reached = vi.fn()
  window.addEventListener('keydown', reached)
  await wrapper.get('input').trigger('keydown', { key: 'Escape' })
  await nextTick()
  window.removeEventListener('keydown', reached)
  expect(wrapper.find('[role="dialog"]').exists()).toBe(false)
  expect(reached).not.toHaveBeenCalled()
})
