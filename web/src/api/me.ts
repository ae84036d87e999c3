// Who is signed in, and what they may do; coming in and going out.
import { computed, readonly, shallowRef } from 'vue'
import { useWho } from '../kit/who'
import client, { answered } from './client'
import type { Deed, MeView } from './types'

/** Tells other tabs of this browser that somebody came in or went out: a tab never acts under another's name. */
const TOLD = 'rulvek.came-in'
const me = shallowRef<MeView | null>(null)
const lost = shallowRef<unknown>(null)

function took(now: MeView): MeView {
  const who = useWho()
  const other = me.value?.person && now.person && me.value.person.id !== now.person.id
  me.value = now
  if (now.person) who.answer(now.person.name)
  else if (who.name.value) who.leave()
  // What one person had before them is not another's.
  if (other) location.reload()
  return now
}

async function ask(): Promise<void> {
  try {
    took(await answered(client.GET('/api/me')))
    lost.value = null
  } catch (failure) {
    lost.value = failure
  }
}

window.addEventListener('storage', (event) => {
  if (event.key === TOLD) void ask()
})

/** Somebody came in: `call` began a session. */
async function come(call: Promise<{ data?: MeView; error?: unknown }>): Promise<MeView> {
  const now = took(await answered(call))
  localStorage.setItem(TOLD, `${Date.now()}`)
  return now
}

/** End this session, and begin afresh: nothing of it is left on the screen for who comes next. */
async function signOut(): Promise<void> {
  await client.POST('/api/sign-out')
  localStorage.setItem(TOLD, `${Date.now()}`)
  location.assign('/line')
}

export function useMe() {
  return { me: readonly(me), lost: readonly(lost), ask, come, signOut }
}

/** Whether the person may do something; the server decides, this only keeps from offering what it would refuse. */
export const useMay = (deed: Deed) => computed(() => me.value?.may.includes(deed) ?? false)
