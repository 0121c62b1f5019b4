import js from '@eslint/js'
import a11y from 'eslint-plugin-jsx-a11y'
import hooks from 'eslint-plugin-react-hooks'
import ts from 'typescript-eslint'

// An import may only point downwards: theme, then api, then what several places share, then the places. What two
// places need lies below both.
const PLACES = ['ask', 'trial', 'book', 'shop', 'compare', 'print', 'door', 'me']
const BELOW = [['theme'], ['api'], ['shared', 'plate', 'forms', 'recipes'], PLACES]
const ADDRESS = {
  name: 'react-router',
  importNames: ['useSearchParams'],
  message: 'A page that was left would lead back to itself: useAddress.',
}
const arrows = BELOW.flatMap((floor, level) =>
  floor.map((folder) => {
    const above = BELOW.slice(level + 1).flat()
    const beside = floor === PLACES ? PLACES.filter((other) => other !== folder) : []
    const group = [...above, ...beside].map((other) => `**/../${other}/**`)
    const patterns = group.length > 0 ? [{ group, message: 'An import may only point downwards.' }] : []
    return {
      files: [`src/${folder}/**`],
      rules: { 'no-restricted-imports': ['error', { paths: [ADDRESS], patterns }] },
    }
  }),
)

export default ts.config(
  { ignores: ['dist', 'src/api/schema.d.ts', 'node_modules'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  a11y.flatConfigs.recommended,
  hooks.configs.flat.recommended,
  {
    rules: {
      '@typescript-eslint/consistent-type-imports': 'error',
      // The plate is one focusable list of patches; its options are SVG groups that listen for the pointer.
      'jsx-a11y/no-noninteractive-tabindex': 'off',
    },
  },
  ...arrows,
)
