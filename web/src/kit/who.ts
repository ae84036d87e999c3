import { readonly, ref } from 'vue'

const KEY = 'rulvek.person'
const name = ref(localStorage.getItem(KEY) ?? '')
const asking = ref(false)
let waiting: ((given: string | null) => void)[] = []

/** Who sits at this browser. Asked once, stored with everything that is done from here. */
export function useWho() {
  return { name: readonly(name), asking: readonly(asking), ask, answer, forget, required }
}

function ask() {
  asking.value = true
}

function answer(given: string | null) {
  if (given) {
    name.value = given.trim()
    localStorage.setItem(KEY, name.value)
  }
  asking.value = false
  waiting.forEach((resolve) => resolve(given))
  waiting = []
}

/** Nobody sits here any more. */
function forget() {
  name.value = ''
  localStorage.removeItem(KEY)
}

/** The name, asking for it first where it is not known; `null` when the question was dismissed. */
function required(): Promise<string | null> {
  if (name.value) return Promise.resolve(name.value)
  asking.value = true
  return new Promise((resolve) => waiting.push(resolve))
}
