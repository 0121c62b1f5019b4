// Not from '@chakra-ui/react' whole: its preset makes a second system, with everything in it, when it is read.
import { createSystem, defineConfig, mergeConfigs } from '@chakra-ui/react'
import { defaultBaseConfig } from '@chakra-ui/react/preset-base'
import {
  animationStyles,
  breakpoints,
  buttonRecipe,
  cssVarsPrefix,
  cssVarsRoot,
  dialogSlotRecipe,
  globalCss,
  headingRecipe,
  inputRecipe,
  keyframes,
  layerStyles,
  linkRecipe,
  nativeSelectSlotRecipe,
  semanticTokens,
  skeletonRecipe,
  tableSlotRecipe,
  textStyles,
  textareaRecipe,
  tokens,
} from '@chakra-ui/react/theme'
import { dark, light, onPaper } from './palette'
import type { ColourName } from './palette'

const colours = Object.fromEntries(
  Object.entries(light).map(([name, base]) => [name, { value: { base, _dark: dark[name as ColourName] } }]),
)

const UNUSED = ['red', 'pink', 'purple', 'cyan', 'blue', 'teal', 'green', 'yellow', 'orange']

function without<T extends object>(tokens: T): T {
  return Object.fromEntries(Object.entries(tokens).filter(([name]) => !UNUSED.includes(name))) as T
}

/**
 * Chakra's base with its own tokens, but without the palettes we never use and with the recipes of the components
 * we do: reading and making the rest is what starting up would cost most. A component used for the first time
 * brings its recipe here.
 */
const lean = mergeConfigs(
  defaultBaseConfig,
  defineConfig({
    preflight: true,
    cssVarsPrefix,
    cssVarsRoot,
    globalCss,
    theme: {
      breakpoints,
      keyframes,
      tokens: { ...tokens, colors: without(tokens.colors ?? {}) },
      semanticTokens: { ...semanticTokens, colors: without(semanticTokens.colors ?? {}) },
      textStyles,
      layerStyles,
      animationStyles,
      recipes: {
        button: buttonRecipe,
        heading: headingRecipe,
        input: inputRecipe,
        link: linkRecipe,
        skeleton: skeletonRecipe,
        textarea: textareaRecipe,
      },
      slotRecipes: {
        dialog: dialogSlotRecipe,
        nativeSelect: nativeSelectSlotRecipe,
        table: tableSlotRecipe,
      },
    },
  }),
)

/** One Chakra system for the whole app: tokens, fonts, the few recipes that are our own. */
export const system = createSystem(
  lean,
  defineConfig({
    globalCss: {
      html: { bg: 'paper', color: 'ink', colorScheme: 'light', overflowAnchor: 'none' },
      // Paper is light, whatever the screen is.
      'html.dark': { colorScheme: 'dark', _print: { colorScheme: 'light', ...onPaper } },
      body: {
        _print: { bg: 'transparent', paddingTop: '0' },
        bg: 'paper',
        color: 'ink',
        fontFamily: 'body',
        fontVariantNumeric: 'tabular-nums',
        lineHeight: '1.4',
        // What is said in passing moves the page down instead of lying over it.
        paddingTop: 'var(--toast-room, 0px)',
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
