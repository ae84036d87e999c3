// The focus is never lost: when what had it goes, the page's content has it, so that Tab goes on from there.
import { onMounted, onScopeDispose } from 'vue'
import type { Ref } from 'vue'

let kept: Ref<HTMLElement | undefined> | undefined

/** @param content what holds every page; it can be focused by a program (`tabindex="-1"`), not by Tab */
export function useKeptFocus(content: Ref<HTMLElement | undefined>): void {
  kept = content
  let last: Element | null = null
  const remember = (event: FocusEvent) => (last = event.target as Element)
  const changes = new MutationObserver(() => {
    if (!last || last.isConnected) return
    last = null
    keepFocus()
  })
  document.addEventListener('focusin', remember)
  onMounted(() => changes.observe(document.body, { childList: true, subtree: true }))
  onScopeDispose(() => {
    document.removeEventListener('focusin', remember)
    changes.disconnect()
  })
}

/** What had the focus gives it back to nobody: the content has it now. */
export function keepFocus(): void {
  if (document.activeElement === document.body) kept?.value?.focus({ preventScroll: true })
}
