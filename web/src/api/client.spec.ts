// Answers and errors of the server, and who is asking.
import { afterEach, describe, expect, it } from 'vitest'
import client, { ApiError, answered } from './client'
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
  it('is known by name, and is missed only once they were there', () => {
    const person = useWho()
    person.leave()
    expect([person.hasLeft.value, person.required()]).toEqual([false, true])
    person.answer('Joren Haldvik')
    expect([person.name.value, person.required()]).toEqual(['Joren Haldvik', true])
    person.leave()
    expect([person.name.value, person.hasLeft.value, person.required()]).toEqual(['Joren Haldvik', true, false])
    person.answer('Joren Haldvik')
    expect(person.required()).toBe(true)
  })

  it('has left once an answer says that nobody is signed in', async () => {
    const person = useWho()
    person.answer('Joren Haldvik')
    const refused = new Response(JSON.stringify({ code: 'not-signed-in', what: 'Nobody is signed in.' }), {
      status: 401,
      headers: { 'Content-Type': 'application/json' },
    })
    const asked = client.GET('/api/gear', { baseUrl: 'http://localhost', fetch: () => Promise.resolve(refused) })
    await expect(answered(asked)).rejects.toThrowError('Nobody is signed in.')
    expect(person.hasLeft.value).toBe(true)
  })
})
