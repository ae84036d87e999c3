// Answers and errors of the server, and who is asking.
import { afterEach, describe, expect, it, vi } from 'vitest'
import { ApiError, answered } from './client'
import { useWho } from '../kit/who'

afterEach(() => localStorage.clear())

describe('calls', () => {
  it('give their data', async () => {
    expect(await answered(Promise.resolve({ data: [1] }))).toEqual([1])
  })

  it('give the problem as the server tells it', async () => {
    const problem = { code: 'bench-busy', what: 'Bench 1 is busy.', todo: 'Wait.', field: null }
    const failed = answered(Promise.resolve({ error: problem }))
    await expect(failed).rejects.toThrowError('Bench 1 is busy. Wait.')
    await expect(failed).rejects.toBeInstanceOf(ApiError)
  })

  it('say that nobody answers, whether the network or the answer is broken', async () => {
    for (const broken of [Promise.reject(new TypeError('fetch failed')), Promise.resolve({ error: '<html>' })])
      await expect(answered(broken)).rejects.toMatchObject({ problem: { code: 'unreachable' } })
  })
})

describe('the person', () => {
  it('is asked for once, and everyone who waits is answered', async () => {
    const person = useWho()
    const first = person.required()
    const second = person.required()
    expect(person.asking.value).toBe(true)
    person.answer('  Joren Haldvik ')
    expect(await Promise.all([first, second])).toEqual(['  Joren Haldvik ', '  Joren Haldvik '])
    expect(person.name.value).toBe('Joren Haldvik')
    expect(localStorage.getItem('rulvek.person')).toBe('Joren Haldvik')
    expect(await person.required()).toBe('Joren Haldvik')
    expect(person.asking.value).toBe(false)
  })

  it('may decline', async () => {
    vi.resetModules()
    localStorage.clear()
    const { useWho: fresh } = await import('../kit/who')
    const person = fresh()
    const asked = person.required()
    person.answer(null)
    expect(await asked).toBeNull()
    expect(person.name.value).toBe('')
  })
})
