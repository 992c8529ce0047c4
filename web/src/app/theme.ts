import { createSystem, defaultConfig, defineConfig } from '@chakra-ui/react'

/** Warm paper and dark ink by day; the same page by a dim lamp at night. One accent: deep teal. */
const config = defineConfig({
  globalCss: {
    html: { fontSize: '16px', colorPalette: 'tide' },
    // A scrollbar that takes room of its own is as quiet as the page.
    '*': { scrollbarColor: '{colors.quiet} transparent' },
    body: { bg: 'paper', color: 'ink', fontSize: '15px', lineHeight: '1.45' },
    '*:focus-visible': { outline: '2px solid {colors.tide.focusRing}', outlineOffset: '1px' },
    'input[type=checkbox], input[type=radio], input[type=range], progress': { accentColor: '{colors.tide.solid}' },
    '::selection': { bg: 'tide.muted' },
    // Whoever asks the system for less motion gets it; what turns while something is waited for goes on.
    '*, *::before, *::after': {
      _motionReduce: { transitionDuration: '0.01ms !important', scrollBehavior: 'auto !important' },
    },
    '[data-scope=dialog], [data-scope=menu]': { _motionReduce: { animationDuration: '0.01ms !important' } },
    // A word of state stands in thousands of rows: its looks are plain CSS.
    '.state': {
      display: 'inline-flex',
      alignItems: 'center',
      gap: '6px',
      color: 'ink',
      fontWeight: 'semibold',
      whiteSpace: 'nowrap',
    },
    '.state.quiet': { color: 'quiet', fontWeight: 'normal' },
  },
  theme: {
    recipes: {
      button: {
        base: { fontWeight: 'semibold' },
        variants: { variant: { outline: { borderColor: 'tide.emphasized' } } },
      },
    },
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        mono: { value: "'Atkinson Hyperlegible Mono Variable', monospace" },
      },
      radii: {
        sm: { value: '2px' },
        md: { value: '3px' },
        l1: { value: '2px' },
        l2: { value: '3px' },
        l3: { value: '4px' },
      },
    },
    semanticTokens: {
      colors: {
        paper: { value: { base: '#f7f2e8', _dark: '#1b1916' } },
        page: { value: { base: '#fdfaf3', _dark: '#23201c' } },
        ink: { value: { base: '#25211b', _dark: '#e9e1d2' } },
        quiet: { value: { base: '#665d4f', _dark: '#aca292' } },
        rule: { value: { base: '#ddd3c0', _dark: '#3d382f' } },
        hatch: { value: { base: '#8c3b1d', _dark: '#e9a27c' } },
        bg: {
          DEFAULT: { value: { _light: '#f7f2e8', _dark: '#1b1916' } },
          panel: { value: { _light: '#fdfaf3', _dark: '#23201c' } },
          subtle: { value: { _light: '#efe8d9', _dark: '#2a2621' } },
          muted: { value: { _light: '#e9e0ce', _dark: '#322d27' } },
        },
        fg: {
          DEFAULT: { value: { _light: '#25211b', _dark: '#e9e1d2' } },
          muted: { value: { _light: '#665d4f', _dark: '#aca292' } },
        },
        border: { DEFAULT: { value: { _light: '#ddd3c0', _dark: '#3d382f' } } },
        tide: {
          solid: { value: { base: '#0e5a5c', _dark: '#5fb3ae' } },
          contrast: { value: { base: '#fdfaf3', _dark: '#12201f' } },
          fg: { value: { base: '#0b4c4e', _dark: '#83cbc5' } },
          subtle: { value: { base: '#e3ebe4', _dark: '#22302e' } },
          muted: { value: { base: '#cfdfd8', _dark: '#2b4240' } },
          emphasized: { value: { base: '#b3cfc8', _dark: '#36595a' } },
          focusRing: { value: { base: '#0e5a5c', _dark: '#83cbc5' } },
        },
      },
    },
  },
})

export const system = createSystem(defaultConfig, config)

export type Theme = 'light' | 'dark'
const key = 'ennick.theme'

export const currentTheme = (): Theme => (localStorage.getItem(key) === 'dark' ? 'dark' : 'light')

export function applyTheme(theme: Theme = currentTheme()): void {
  localStorage.setItem(key, theme)
  document.documentElement.classList.remove('light', 'dark')
  document.documentElement.classList.add(theme)
  document.documentElement.style.colorScheme = theme
}
