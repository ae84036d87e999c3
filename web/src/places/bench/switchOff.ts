// Off: at once for one's own run, at the second press for another person's; tried until the server has heard it.
import { API } from '../../kit/base'
import { onScopeDispose, readonly, ref } from 'vue'

/**
 * Where an Off stands: nothing asked; whose run it is was asked; on its way; on its way for so long that the supply
 * must be switched off by hand.
 */
export type OffState = 'quiet' | 'asking' | 'pending' | 'unanswered'

const ASKING_MS = 6000
const TRY_MS = 1500
const AGAIN_MS = 300
const UNANSWERED_MS = 2000
const GIVE_UP_MS = 120_000

/**
 * @param bench the number of the bench
 * @param isAnothers whether what goes on there is another person's
 */
export function useSwitchOff(bench: () => number | undefined, isAnothers: () => boolean) {
  const state = ref<OffState>('quiet')
  let asking = 0
  let over = false
  onScopeDispose(() => {
    over = true
    clearTimeout(asking)
  })

  /** Off was pressed; needs no name and no answer to anything but whose run it is. */
  function press(): void {
    if (state.value === 'pending' || state.value === 'unanswered') return
    clearTimeout(asking)
    if (isAnothers() && state.value !== 'asking') {
      state.value = 'asking'
      asking = window.setTimeout(() => (state.value = 'quiet'), ASKING_MS)
      return
    }
    void send()
  }

  function leave(): void {
    clearTimeout(asking)
    if (state.value === 'asking') state.value = 'quiet'
  }

  async function send() {
    const began = Date.now()
    state.value = 'pending'
    const late = window.setTimeout(() => (state.value = 'unanswered'), UNANSWERED_MS)
    while (!over && Date.now() - began < GIVE_UP_MS) {
      if (await heard()) {
        clearTimeout(late)
        state.value = 'quiet'
        return
      }
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS))
    }
    clearTimeout(late)
  }

  async function heard(): Promise<boolean> {
    const stop = new AbortController()
    const patience = window.setTimeout(() => stop.abort(), TRY_MS)
    const query = bench() === undefined ? '' : `?bench=${bench()}`
    try {
      const init = { method: 'POST', signal: stop.signal, priority: 'high', keepalive: true } as RequestInit
      return (await fetch(`${API}/bench/off${query}`, init)).ok
    } catch {
      return false
    } finally {
      clearTimeout(patience)
    }
  }

  return { state: readonly(state), press, leave }
}
