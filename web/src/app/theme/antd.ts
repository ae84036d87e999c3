import type { ThemeConfig } from 'ant-design-vue/es/config-provider/context'
import { theme } from 'ant-design-vue'
import type { ThemeMode } from './mode'

const shared = {
  fontFamily: "'Source Sans 3 Variable', system-ui, sans-serif",
  fontSize: 15,
  borderRadius: 3,
  boxShadow: 'none',
  controlHeight: 34,
}

/** The dark algorithm dims these below WCAG AA; they are what text or white on them needs. */
const LEGIBLE_IN_THE_DARK = {
  colorPrimary: '#1f7d76',
  colorPrimaryHover: '#27918a',
  colorPrimaryActive: '#1a6b65',
  colorError: '#f0948c',
  colorErrorHover: '#f5aaa3',
  colorErrorBorderHover: '#f5aaa3',
  colorBgElevated: '#283036',
}

/** Ant Design Vue's tokens, set once for each theme from the same palette as `base.css`. */
export function antdTheme(mode: ThemeMode): ThemeConfig {
  if (mode === 'dark')
    return {
      algorithm: (seed, map) => ({ ...theme.darkAlgorithm(seed, map), ...LEGIBLE_IN_THE_DARK }),
      token: {
        ...shared,
        colorBgBase: '#1f262a',
        colorTextBase: '#e6e3da',
        colorBorder: '#56636b',
        colorLink: '#4db5ad',
      },
    }
  return {
    token: {
      ...shared,
      colorPrimary: '#0f6b66',
      colorError: '#a5332b',
      colorTextBase: '#1f272d',
      colorBorder: '#b9b2a2',
      colorLink: '#0f6b66',
    },
  }
}
