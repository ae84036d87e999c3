import createClient from 'openapi-fetch'
import type { paths } from './generated'
import { BASE } from '../kit/base'
import { useWho } from '../kit/who'
import { keyFor, settled } from './sentOnce'
import type { Problem } from './types'

/** An error as the server tells it: what happened and what to do. */
export class ApiError extends Error {
  constructor(readonly problem: Problem) {
    super([problem.what, problem.todo].filter(Boolean).join(' '))
  }
}

const client = createClient<paths>({ baseUrl: BASE })
/** What each request asks for, in a word that is the same for its twins. */
const wishes = new WeakMap<Request, string>()

/** A file that is sent is no wish: it is only put in the inbox, and would have to be read for its key. */
const isWish = (request: Request) =>
  request.method === 'POST' && /json|^$/.test(request.headers.get('Content-Type') ?? '')

async function wish(request: Request): Promise<string> {
  const said = `${request.url} ${await request.clone().text()}`
  wishes.set(request, said)
  return said
}

client.use({
  async onRequest({ request }) {
    if (isWish(request)) request.headers.set('Idempotency-Key', keyFor(await wish(request)))
    return request
  },
  async onResponse({ request, response }) {
    const said = wishes.get(request)
    if (said !== undefined) settled(said, response.ok)
    // A session that lapsed, or was ended elsewhere: the page asks to sign in, and stays as it is meanwhile.
    if (response.status === 401 && !request.url.includes('/api/sign-in')) useWho().leave()
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
