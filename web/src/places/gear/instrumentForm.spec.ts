// A calibration takes the place of the entry that was looked at; where another one came meanwhile, a person decides.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, expect, it, vi } from 'vitest'
import client from '../../api/client'
import type { InstrumentView } from '../../api/types'
import { useWho } from '../../kit/who'
import InstrumentForm from './InstrumentForm.vue'

const meter = (id: number, percent: number, by = 'Tamsin'): InstrumentView =>
  ({
    id,
    state: 'in use',
    entered_by: by,
    entry: {
      role: 'output',
      name: 'Meter 4',
      serial: 'M-0004',
      percent_of_reading: percent,
      calibrated_on: '2026-03-01',
      due_on: '2027-03-01',
      as_found: 'within',
    },
  }) as unknown as InstrumentView

function calibrated(held: InstrumentView) {
  const sent: string[] = []
  vi.spyOn(client, 'POST').mockImplementation((async (_path: string, options: unknown) => {
    const { params, body } = options as { params: { header: Record<string, string> }; body: unknown }
    sent.push(`${params.header['If-Match']} ${JSON.stringify(body)}`)
    const response = new Response(null, { status: sent.length > 1 ? 201 : 412 })
    return sent.length > 1
      ? { data: {}, response }
      : { error: { code: 'stale', what: 'Joren entered Meter 4 for it meanwhile.' }, response }
  }) as unknown as typeof client.POST)
  vi.spyOn(client, 'GET').mockResolvedValue({
    data: { instruments: [meter(8, 0.9, 'Joren')] },
    response: new Response(null),
  } as never)
  const form = mount(InstrumentForm, {
    props: { known: held.entry, instruments: [held] },
    global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] },
  })
  return { form, sent }
}

beforeEach(() => {
  vi.restoreAllMocks()
  useWho().answer('Tamsin')
})

it('the limits come along, the dates do not; a stale one shows both, and mine goes over it when I say so', async () => {
  const { form, sent } = calibrated(meter(7, 0.5))
  await form.find('form').trigger('submit')
  await flushPromises()
  expect(sent[0]).toMatch(/^7 .*"percent_of_reading":0.5/)
  expect(sent[0]).not.toContain('2026-03-01')
  const both = form.find('[aria-label="Both texts"]')
  expect(both.text()).toContain('percent of reading0.50.9')
  await both.findAll('button')[1]!.trigger('click')
  await flushPromises()
  expect(sent[1]).toMatch(/^8 .*"percent_of_reading":0.5/)
  expect(form.emitted('done')).toHaveLength(1)
})

it('theirs is taken as it stands, and nothing is sent', async () => {
  const { form, sent } = calibrated(meter(7, 0.5))
  await form.find('form').trigger('submit')
  await flushPromises()
  await form.find('[aria-label="Both texts"] button').trigger('click')
  await flushPromises()
  expect(sent).toHaveLength(1)
  expect(form.find('[aria-label="Both texts"]').exists()).toBe(false)
  await form.find('form').trigger('submit')
  expect(sent[1]).toMatch(/^8 .*"percent_of_reading":0.9.*"calibrated_on":"2026-03-01"/)
})
