import { readonly, ref } from 'vue'

const name = ref('')
/** Somebody was signed in and is no more: the page stays as it is until they are again. */
const hasLeft = ref(false)

/** Who is signed in at this browser. */
export function useWho() {
  return { name: readonly(name), hasLeft: readonly(hasLeft), answer, leave, required }
}

/** Somebody is signed in, by name. */
function answer(given: string) {
  name.value = given
  hasLeft.value = false
}

/** Nobody is signed in any more. Before it is known whether somebody was, that says nothing new. */
function leave() {
  hasLeft.value = !!name.value
}

/** Whether somebody is signed in, as far as is known; the server knows. */
const required = (): boolean => !hasLeft.value
