import { readonly, ref, watch } from 'vue'

const KEY = 'rulvek.spreads'
const shown = ref(localStorage.getItem(KEY) === 'yes')
watch(shown, (now) => localStorage.setItem(KEY, now ? 'yes' : 'no'))

/** Whether every watt carries its ± U; remembered by the browser. */
export function useSpreads() {
  return { shown: readonly(shown), toggle: () => (shown.value = !shown.value) }
}
