// The worker that all pages of a browser share: six pages with a feed each would leave no connection to Off.
import { Feeds, STAYS_MS } from './feeds'
import type { Asked } from './feeds'

const feeds = new Feeds()
addEventListener('connect', (event) => {
  const port = (event as MessageEvent).ports[0]!
  port.onmessage = (message: MessageEvent<Asked>) => feeds.ask(port, message.data)
})
setInterval(() => feeds.sweep(), STAYS_MS)
