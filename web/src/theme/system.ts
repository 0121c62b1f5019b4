import { createSystem, defaultConfig, defineConfig } from '@chakra-ui/react'
import { dark, light } from './palette'
import type { ColourName } from './palette'

const colours = Object.fromEntries(
  Object.entries(light).map(([name, base]) => [name, { value: { base, _dark: dark[name as ColourName] } }]),
)

const UNUSED = ['red', 'pink', 'purple', 'cyan', 'blue', 'teal', 'green', 'yellow', 'orange']

function without<T extends object>(tokens: T): T {
  return Object.fromEntries(Object.entries(tokens).filter(([name]) => !UNUSED.includes(name))) as T
}

/** Chakra's own theme without the palettes we never use: making their tokens is what starting up costs most. */
const lean = {
  ...defaultConfig,
  theme: {
    ...defaultConfig.theme,
    tokens: { ...defaultConfig.theme?.tokens, colors: without(defaultConfig.theme?.tokens?.colors ?? {}) },
    semanticTokens: {
      ...defaultConfig.theme?.semanticTokens,
      colors: without(defaultConfig.theme?.semanticTokens?.colors ?? {}),
    },
  },
}

/** One Chakra system for the whole app: tokens, fonts, the few recipes that are our own. */
export const system = createSystem(
  lean,
  defineConfig({
    globalCss: {
      html: { bg: 'paper', color: 'ink', colorScheme: 'light' },
      'html.dark': { colorScheme: 'dark' },
      body: {
        bg: 'paper',
        color: 'ink',
        fontFamily: 'body',
        fontVariantNumeric: 'tabular-nums',
        lineHeight: '1.4',
      },
      ':focus-visible': { outline: '3px solid', outlineColor: 'steel', outlineOffset: '2px' },
    },
    theme: {
      tokens: {
        fonts: {
          body: { value: "'Barlow', sans-serif" },
          heading: { value: "'Barlow', sans-serif" },
          numeral: { value: "'Barlow Condensed', 'Barlow', sans-serif" },
        },
        radii: { card: { value: '14px' }, control: { value: '10px' } },
      },
      semanticTokens: {
        colors: {
          ...colours,
          bg: { value: '{colors.paper}' },
          fg: { value: '{colors.ink}' },
          border: { value: '{colors.line}' },
        },
      },
    },
  }),
)
