import { createSystem, defaultConfig, defineConfig } from '@chakra-ui/react'
import { palette } from './palette'

const colours = Object.fromEntries(Object.entries(palette).map(([name, value]) => [name, { value }]))

/** One Chakra system for the whole app: tokens, fonts, the few recipes that are our own. */
export const system = createSystem(
  defaultConfig,
  defineConfig({
    globalCss: {
      html: { bg: 'paper', color: 'ink', colorScheme: 'light' },
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
        colors: colours,
        fonts: {
          body: { value: "'Barlow', sans-serif" },
          heading: { value: "'Barlow', sans-serif" },
          numeral: { value: "'Barlow Condensed', 'Barlow', sans-serif" },
        },
        radii: { card: { value: '14px' }, control: { value: '10px' } },
      },
      semanticTokens: {
        colors: {
          bg: { value: '{colors.paper}' },
          fg: { value: '{colors.ink}' },
          border: { value: '{colors.line}' },
        },
      },
    },
  }),
)
