// One registry of keys for every screen: what acts, where it must not, and what the page of keys says.
import { computed, onScopeDispose, shallowReactive, toValue, watch } from 'vue'
import type { MaybeRefOrGetter } from 'vue'

/** What a key does while the part of the screen that says so is shown. */
export interface KeyAct {
  /** As the browser names it, with what is held before it: `n`, `Space`, `Escape`, `Shift+D`, `Ctrl+Enter`. */
  key: string
  /** What it does, in words, for the page of keys; none for a key that is another's twin. */
  does?: string
  /** Its name on the page of keys, where it stands for several. */
  shown?: string
  act: (event: KeyboardEvent) => void
  /** Whether it does anything just now; the key is left alone where it does not. */
  when?: () => boolean
  /** Acts in a field, too; not over an open layer. For what a field makes nothing of. */
  inFields?: boolean
  /** Acts in a field and over an open layer, too. For what must always work. */
  always?: boolean
}

const FIELDS = 'input, textarea, select, [contenteditable]'
const CONTROLS = `a, button, summary, [role="button"], [role="option"], [role="tab"], ${FIELDS}`
/** Keys by which a focused control acts itself. */
const PRESSES = new Set(['Space', 'Enter'])

/** What each part of the screen registered, the latest first. */
const parts = shallowReactive<(readonly KeyAct[])[]>([])
const layers = shallowReactive<{ close: () => void }[]>([])

/** What a pressed key is called here. */
export function nameOf(event: KeyboardEvent): string {
  const key = event.key === ' ' ? 'Space' : event.key.length === 1 ? event.key.toLowerCase() : event.key
  const held = [event.ctrlKey || event.metaKey ? 'Ctrl+' : '', event.altKey ? 'Alt+' : ''].join('')
  // Of what Shift alone makes another sign (?, /), the sign is the key.
  const shifted = event.shiftKey && (/^[a-z]$/.test(key) || key.length > 1)
  return held + (shifted ? 'Shift+' : '') + (shifted && key.length === 1 ? key.toUpperCase() : key)
}

/** Whether it stands in a dialog that is closing: every open one is a layer. */
const isLeft = (element: HTMLElement) => !layers.length && element.closest('[role="dialog"]') !== null

function pressed(event: KeyboardEvent) {
  const name = nameOf(event)
  // A dialog that has just closed may still hold the focus; what is in it is nobody's any more.
  const target = event.target instanceof HTMLElement && !isLeft(event.target) ? event.target : null
  const control = target?.closest(CONTROLS) ?? null
  if (event.repeat) {
    // A held key is one press: it neither acts again here nor presses the focused control again and again.
    const isOurs = parts.flat().some((one) => one.key === name)
    if ((isOurs && !target?.closest(FIELDS)) || (PRESSES.has(name) && control && !control.matches(FIELDS)))
      event.preventDefault()
    return
  }
  if (PRESSES.has(name) && control) return
  const inField = !!target?.closest(FIELDS)
  const reaches = (one: KeyAct) => one.always || (!layers.length && (one.inFields || !inField))
  const found = parts.flat().find((one) => one.key === name && reaches(one) && (one.when?.() ?? true))
  const closes = name === 'Escape' ? layers.at(-1) : undefined
  if (!found && !closes) return
  event.preventDefault()
  event.stopPropagation()
  if (found) found.act(event)
  else closes!.close()
}

let listening = false
function listen() {
  if (listening) return
  listening = true
  // While it goes down: what must always work comes before whatever an open layer makes of the key.
  window.addEventListener('keydown', pressed, { capture: true })
}

/** Let keys act until the scope ends; of two that share a key, the one that came later acts. */
export function useKeys(acts: readonly KeyAct[]): void {
  listen()
  parts.unshift(acts)
  onScopeDispose(() => parts.splice(parts.indexOf(acts), 1))
}

/**
 * Tell that something lies over the page, so that the page's keys don't act under it.
 *
 * @param close what `Escape` does to it, wherever the focus is
 */
export function useLayer(open: MaybeRefOrGetter<boolean>, close: () => void): void {
  listen()
  const layer = { close }
  const count = (now: boolean) => {
    const at = layers.indexOf(layer)
    if (now && at < 0) layers.push(layer)
    else if (!now && at >= 0) layers.splice(at, 1)
  }
  watch(() => toValue(open), count, { immediate: true })
  onScopeDispose(() => count(false))
}

/** Every key that acts now and what it does, the latest part's first. */
export const keysNow = () => parts.flat().filter((one) => one.does !== undefined)
/** A key as it is written on the page of keys. */
export const shownName = (one: KeyAct) =>
  one.shown ?? one.key.replace('Escape', 'Esc').replace(/^[a-z]$/, (letter) => letter.toUpperCase())
/** How many layers lie over the page. */
export const openLayers = computed(() => layers.length)
