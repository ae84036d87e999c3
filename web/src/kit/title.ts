// What the tab of the browser says.
import { ref, watch } from 'vue'

/** A step of the way to a page: its name, and where it is. */
export interface Step {
  name: string
  to?: string
}

const title = ref('')
watch(title, (now) => (document.title = now ? `${now} – Rulvek` : 'Rulvek'), { flush: 'sync' })

/** The title of the page that is shown. */
export const useTitle = () => title
