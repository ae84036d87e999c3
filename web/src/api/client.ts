import createClient from 'openapi-fetch'
import type { paths } from './generated'
import { usePerson } from './person'
import type { Problem } from './types'

/** An error as the server tells it: what happened and what to do. */
export class ApiError extends Error {
  constructor(readonly problem: Problem) {
    super([problem.what, problem.todo].filter(Boolean).join(' '))
  }
}

const client = createClient<paths>()

client.use({
  onRequest({ request }) {
    const { name } = usePerson()
    if (name.value) request.headers.set('X-Rulvek-Person', encodeURIComponent(name.value))
    return request
  },
})

const UNREACHABLE: Problem = {
  code: 'unreachable',
  what: 'The server does not answer.',
  todo: 'What was measured is kept there; check that it runs and try again.',
  field: null,
}

/** The data of a call, or an `ApiError`. */
export async function answered<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  let result: { data?: T; error?: unknown }
  try {
    result = await call
  } catch {
    throw new ApiError(UNREACHABLE)
  }
  if (result.data !== undefined) return result.data
  const problem = result.error as Problem | undefined
  throw new ApiError(problem?.what ? problem : UNREACHABLE)
}

export default client
