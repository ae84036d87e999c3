import { readonly, ref, watchEffect } from 'vue'

export type ThemeMode = 'light' | 'dark'

const mode = ref<ThemeMode>(localStorage.getItem('rulvek.theme') === 'dark' ? 'dark' : 'light')

watchEffect(() => {
  document.documentElement.dataset.theme = mode.value
  localStorage.setItem('rulvek.theme', mode.value)
})

/** Paper for a bright bench or dark for a dim lab; remembered by the browser. */
export function useThemeMode() {
  return {
    mode: readonly(mode),
    toggle: () => {
      mode.value = mode.value === 'dark' ? 'light' : 'dark'
    },
  }
}

/** A colour of the present theme, for canvases, which cannot use CSS variables. */
export function themeColour(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()
}
