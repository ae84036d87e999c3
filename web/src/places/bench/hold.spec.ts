// Who holds the bench: what the holder, a watcher and the one who asks are told, and what they can do.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, expect, it, vi } from 'vitest'
import api from '../../api/client'
import { useMe } from '../../api/me'
import type { BenchView, Deed } from '../../api/types'
import HoldNote from './HoldNote.vue'

const bench = (changes: Partial<BenchView>) =>
  ({ name: 'Bench 1', state: 'idle', holder: null, asked_by: null, asked_seconds_left: null, ...changes }) as BenchView

const note = (changes: Partial<BenchView>) =>
  mount(HoldNote, {
    props: { bench: bench(changes) },
    global: {
      plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]],
      stubs: { AButton: { template: '<button><slot /></button>' } },
    },
  })

let posted: [string, unknown][]
beforeEach(() => {
  posted = []
  vi.spyOn(api, 'POST').mockImplementation(((path: string, init?: { body?: unknown }) => {
    posted.push([path, init?.body])
    return Promise.resolve({ data: {} })
  }) as never)
  return beingOneWhoMay('measure')
})

/** Be Tamsin, who may do these things. */
async function beingOneWhoMay(...may: Deed[]) {
  vi.spyOn(api, 'GET').mockResolvedValue({ data: { person: { id: 1, name: 'Tamsin' }, may } } as never)
  await useMe().ask()
}

it('tells who only looks that Off is theirs, and offers nothing else', async () => {
  await beingOneWhoMay('look')
  const looking = note({ holder: 'Joren' })
  expect(looking.text()).toContain('You are watching. Off is yours as everybody’s')
  expect(looking.findAll('button')).toEqual([])
})

it('says nothing of a bench that nobody holds', () => {
  expect(note({}).text()).toBe('')
})

it('lets the holder leave, and answer who asks', async () => {
  const alone = note({ holder: 'Tamsin' })
  expect(alone.text()).toContain('You hold the bench.')
  await alone.get('button').trigger('click')
  const asked = note({ holder: 'Tamsin', asked_by: 'Joren', asked_seconds_left: 41.2 })
  expect(asked.get('[role="alert"]').text()).toContain('Joren asks to take over')
  expect(asked.text()).toContain('passes on in 42 s')
  const [give, keep] = asked.findAll('button')
  await give!.trigger('click')
  await flushPromises() // a second answer while the first is on its way is none
  await keep!.trigger('click')
  expect(posted).toEqual([
    ['/api/bench/hold/leave', undefined],
    ['/api/bench/hold/answer', { grant: true }],
    ['/api/bench/hold/answer', { grant: false }],
  ])
})

it('tells a watcher who works there, and lets one ask once', async () => {
  const watching = note({ holder: 'Joren' })
  expect(watching.text()).toContain('Joren is working at the bench; you are watching.')
  await watching.get('button').trigger('click')
  await Promise.resolve()
  expect(posted).toEqual([['/api/bench/hold', undefined]])
  const waiting = note({ holder: 'Joren', asked_by: 'Tamsin', asked_seconds_left: 12 })
  expect(waiting.text()).toContain('You have asked to take over; 12 s left')
  expect(waiting.find('button').exists()).toBe(false)
  expect(note({ holder: 'Joren', asked_by: 'Mirel' }).find('button').exists()).toBe(false)
})
