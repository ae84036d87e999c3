// A key for each thing that is asked of the server, so that asking twice by mistake does it once.

const SAME_FOR_MS = 500
const MOST = 200

interface Asked {
  key: string
  /** Until when the same request is taken for the same wish; for ever while there is no answer. */
  until: number
}

const asked = new Map<string, Asked>()

/**
 * The key of a request: the same one while it has no answer (a retry, the second click of a double click) and for a
 * moment after it, then a new one.
 */
export function keyFor(request: string, now = Date.now()): string {
  const known = asked.get(request)
  if (known && known.until > now) return known.key
  const key = crypto.randomUUID?.() ?? `${now}-${Math.random()}`
  asked.delete(request)
  asked.set(request, { key, until: Infinity })
  if (asked.size > MOST) asked.delete(asked.keys().next().value!)
  return key
}

/** The server has answered: done, or refused, which may be asked again at once. */
export function settled(request: string, done: boolean, now = Date.now()): void {
  const known = asked.get(request)
  if (known) known.until = done ? now + SAME_FOR_MS : now
}
