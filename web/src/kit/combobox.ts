// The library's list says less to those who listen than WAI-ARIA's combobox pattern asks: this completes it.
import { onBeforeUnmount, onMounted, watch } from 'vue'
import type { Ref } from 'vue'

/** Attributes that name parts of the list, which is not there while it is closed. */
const OF_THE_LIST = ['aria-controls', 'aria-owns', 'aria-activedescendant']

/**
 * Tell whether a list is open, and name its parts only while they are there.
 *
 * @param frame what holds the list's input
 */
export function useCombobox(frame: Ref<HTMLElement | undefined>, open: Ref<boolean>): void {
  function complete() {
    const input = frame.value?.querySelector('[role="combobox"]')
    if (!input) return
    const expanded = String(open.value)
    if (input.getAttribute('aria-expanded') !== expanded) input.setAttribute('aria-expanded', expanded)
    for (const name of OF_THE_LIST) {
      const named = input.getAttribute(name)
      if (named !== null && !document.getElementById(named)) input.removeAttribute(name)
    }
  }
  // The library writes its attributes anew whenever it draws the input.
  const watcher = new MutationObserver(complete)
  onMounted(() => {
    complete()
    if (frame.value)
      watcher.observe(frame.value, {
        subtree: true,
        attributes: true,
        attributeFilter: ['aria-expanded', ...OF_THE_LIST],
      })
  })
  onBeforeUnmount(() => watcher.disconnect())
  watch(open, complete, { flush: 'post' })
}
