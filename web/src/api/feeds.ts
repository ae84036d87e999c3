// One open feed a browser for each campaign, however many pages look at it; runs in a worker that they share.

/** What a page tells: that it listens to an address past a step, that it still does, or that it leaves. */
export type Asked = { does: 'listen'; address: string; after: number } | { does: 'stay' } | { does: 'leave' }
/** What a page is told: that the connection stands or is lost, or a step as the server told it. */
export type Told = { is: 'open' } | { is: 'lost' } | { is: 'step'; id: number; text: string }

/** A page as the worker knows it. */
export interface Listener {
  postMessage(told: Told): void
}

interface Feed {
  source: EventSource
  /** Everything past this step is kept. */
  from: number
  kept: { id: number; text: string }[]
  listeners: Set<Listener>
}

const KEPT = 4000
const AGAIN_MS = 2000
/** A page says this often that it is still there; one that crashed does not. */
export const STAYS_MS = 5000
const GONE_MS = 4 * STAYS_MS

export class Feeds {
  private readonly byAddress = new Map<string, Feed>()
  private readonly heard = new Map<Listener, number>()

  /** What a page tells; it may listen to one address at a time. */
  ask(page: Listener, asked: Asked) {
    this.heard.set(page, Date.now())
    if (asked.does === 'stay') return
    this.leave(page)
    if (asked.does === 'leave') return
    this.heard.set(page, Date.now())
    const feed = this.byAddress.get(asked.address)
    // What was before everything that is kept is asked of the server again, for all; each page takes a step once.
    if (!feed || asked.after < feed.from) {
      feed?.source.close()
      this.open(asked.address, asked.after, (feed?.listeners ?? new Set<Listener>()).add(page))
      return
    }
    feed.listeners.add(page)
    if (feed.source.readyState === EventSource.OPEN) page.postMessage({ is: 'open' })
    for (const step of feed.kept) if (step.id > asked.after) page.postMessage({ is: 'step', ...step })
  }

  /** Forget the pages that were not heard of for long. */
  sweep() {
    for (const [page, at] of this.heard) if (Date.now() - at > GONE_MS) this.leave(page)
  }

  private leave(page: Listener) {
    this.heard.delete(page)
    for (const [address, feed] of this.byAddress) {
      feed.listeners.delete(page)
      if (feed.listeners.size) continue
      feed.source.close()
      this.byAddress.delete(address)
    }
  }

  private open(address: string, after: number, listeners: Set<Listener>) {
    const source = new EventSource(`${address}?after=${after}`)
    const feed: Feed = { source, from: after, kept: [], listeners }
    this.byAddress.set(address, feed)
    const tell = (told: Told) => feed.listeners.forEach((page) => page.postMessage(told))
    source.onopen = () => tell({ is: 'open' })
    source.onmessage = (message: MessageEvent<string>) => {
      const step = { id: Number(message.lastEventId), text: message.data }
      feed.kept.push(step)
      if (feed.kept.length > KEPT) feed.from = feed.kept.shift()!.id
      tell({ is: 'step', ...step })
    }
    source.onerror = () => {
      tell({ is: 'lost' })
      // A browser does not try again where it was refused, as by a session that had ended.
      if (source.readyState !== EventSource.CLOSED) return
      setTimeout(() => {
        if (this.byAddress.get(address) === feed) {
          this.open(address, feed.kept.at(-1)?.id ?? feed.from, feed.listeners)
        }
      }, AGAIN_MS)
    }
  }
}
