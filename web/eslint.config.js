import prettier from 'eslint-config-prettier'
import boundaries from 'eslint-plugin-boundaries'
import importX from 'eslint-plugin-import-x'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

/** The rooms of the front end, from the shell down: a room knows itself and those of the rows below it. No step knows another. */
const ROOMS = [
  ['shell'],
  ['gather', 'spot', 'fit'],
  ['tempo', 'picture', 'library'],
  ['desks'],
  ['lanes'],
  ['transport'],
  ['words'],
  ['drawing'],
  ['fields', 'asking'],
  ['keys'],
  ['api'],
  ['look', 'time'],
]
const below = (row) => ROOMS.slice(row + 1).flat()
const policies = ROOMS.flatMap((rooms, row) =>
  rooms.map((room) => ({
    from: { element: { type: room } },
    allow: { to: { element: { type: [room, ...below(row)] } } },
  })),
)

export default ts.config(
  { ignores: ['dist', 'node_modules', 'src/api/schema.d.ts'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: ts.parser } } },
  {
    files: ['src/**/*.{ts,vue}'],
    ignores: ['src/main.ts', 'src/env.d.ts'],
    languageOptions: { parserOptions: { parser: ts.parser } }, // of the scripts in components that these import
    plugins: { boundaries, 'import-x': importX },
    settings: {
      'boundaries/elements': ROOMS.flat().map((room) => ({ type: room, pattern: `src/${room}` })),
      'import/resolver': { typescript: { project: 'tsconfig.json' } },
      'import-x/resolver': { typescript: { project: 'tsconfig.json' } },
      'import-x/parsers': { '@typescript-eslint/parser': ['.ts'], 'vue-eslint-parser': ['.vue'] },
      'import-x/extensions': ['.ts', '.vue'],
    },
    rules: {
      'boundaries/no-unknown-files': 'error',
      'boundaries/dependencies': ['error', { default: 'disallow', policies }],
      'import-x/no-cycle': 'error',
    },
  },
  { rules: { 'vue/multi-word-component-names': 'off', 'max-lines': ['error', 400] } },
  prettier,
)
