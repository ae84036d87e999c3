import { STAYS_MS } from './feeds'
import type { Asked, Told } from './feeds'

/**
 * Listen to a feed past a step until what is returned is called.
 *
 * The pages of a browser share one connection; where it has no shared workers, as on some tablets, each has its own.
 */
export function listen(address: string, after: number, hear: (told: Told) => void): () => void {
  return typeof SharedWorker === 'undefined' ? alone(address, after, hear) : together(address, after, hear)
}

function together(address: string, after: number, hear: (told: Told) => void) {
  const { port } = new SharedWorker(new URL('./feeds.worker.ts', import.meta.url), { type: 'module' })
  const say = (asked: Asked) => port.postMessage(asked)
  port.onmessage = (message: MessageEvent<Told>) => hear(message.data)
  say({ does: 'listen', address, after })
  const staying = setInterval(() => say({ does: 'stay' }), STAYS_MS)
  const leave = () => {
    clearInterval(staying)
    removeEventListener('pagehide', leave)
    say({ does: 'leave' })
    port.close()
  }
  addEventListener('pagehide', leave)
  return leave
}

function alone(address: string, after: number, hear: (told: Told) => void) {
  const source = new EventSource(`${address}?after=${after}`)
  source.onopen = () => hear({ is: 'open' })
  source.onerror = () => hear({ is: 'lost' })
  source.onmessage = (message: MessageEvent<string>) =>
    hear({ is: 'step', id: Number(message.lastEventId), text: message.data })
  return () => source.close()
}
