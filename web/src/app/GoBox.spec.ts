// Search and go: opened by a key, moved through by keys, gone at Escape without reaching the bench.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { enableAutoUnmount, mount } from '@vue/test-utils'
import { effectScope, nextTick } from 'vue'
import { afterEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import api from '../api/client'
import { openLayers, useKeys } from '../kit/keys'
import GoBox from './GoBox.vue'

const ON_RECORD = [
  { kind: 'model', id: 3, name: 'Cobblewick Q4', of: '4 channels' },
  { kind: 'unit', id: 5, name: 'CQ4-0251', of: 'Cobblewick Q4' },
  { kind: 'campaign', id: 7, name: 'Campaign 7', of: 'CQ4-0251' },
]

async function box() {
  vi.spyOn(api, 'GET').mockImplementation(((path: string) =>
    Promise.resolve({ data: path === '/api/find' ? ON_RECORD : undefined })) as never)
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
  await nextTick()
  await wrapper.get('input').setValue('q4')
  await vi.waitFor(() => expect(wrapper.text()).toContain('Cobblewick Q4'))
  return { wrapper, router }
}
enableAutoUnmount(afterEach)

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
  await vi.waitFor(() => expect(wrapper.text()).toContain('Nothing by that name.'))
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

it('closes at Escape, which is no page’s “off” while nothing is powered', async () => {
  const off = vi.fn()
  const page = effectScope()
  page.run(() => useKeys([{ key: 'Escape', act: off, always: true, when: () => openLayers.value === 0 }]))
  const { wrapper } = await box()
  await wrapper.get('input').trigger('keydown', { key: 'Escape' })
  expect(wrapper.find('[role="dialog"]').exists()).toBe(false)
  expect(off).not.toHaveBeenCalled()
  await nextTick()
  window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
  expect(off).toHaveBeenCalledOnce()
  page.stop()
})

it('goes where Enter meant although the answer comes later', async () => {
  const { wrapper, router } = await box()
  const push = vi.spyOn(router, 'push')
  let answer: (found: unknown) => void = () => undefined
  vi.spyOn(api, 'GET').mockImplementation((() => new Promise((resolve) => (answer = resolve))) as never)
  await wrapper.get('input').setValue('0266')
  await wrapper.get('input').trigger('keydown', { key: 'Enter' })
  expect(push).not.toHaveBeenCalled()
  expect(wrapper.text()).toContain('Looking …')
  answer({ data: [{ kind: 'unit', id: 6, name: 'CQ4-0266', of: 'Cobblewick Q4' }] })
  await vi.waitFor(() => expect(push).toHaveBeenCalledWith('/units/6'))
})
