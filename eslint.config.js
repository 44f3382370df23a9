import js from '@eslint/js'
import globals from 'globals'
import ts from 'typescript-eslint'
import vue from 'eslint-plugin-vue'

/** The folders of core, from the ground up: each uses only those that stand before it. */
const FLOORS = [
  'sql',
  'design',
  'carry',
  'edit',
  'naming',
  'dialect',
  'relate',
  'restructure',
  'typing',
  'rows',
  'rehearse',
  'version',
  'check',
  'diagram',
  'definitions'
]
const NOT_CORE = [
  'node:*',
  'vue',
  'vue-router',
  'pinia',
  'express',
  'sequelize',
  'sqlite3',
  'element-plus',
  '**/web/**',
  '**/server/**',
  '**/cli/**',
  '**/demo/**'
]

/** The rooms each room may not reach into: core is used by all and uses none (docs/architecture.md). */
const notFrom = (...rooms) => ({
  'no-restricted-imports': [
    'error',
    {
      patterns: [
        { group: rooms, message: 'The rooms depend in one direction only: see docs/architecture.md.' }
      ]
    }
  ]
})

export default ts.config(
  { ignores: ['built/**', 'dist/**', 'node_modules/**', 'data/**'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...vue.configs['flat/essential'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser }, globals: globals.browser }
  },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': 'error',
      // The file of a noun adds its operations to the list of all (core/edit/operation.ts).
      '@typescript-eslint/no-empty-object-type': ['error', { allowInterfaces: 'with-single-extends' }],
      'no-undef': 'off',
      'vue/multi-word-component-names': 'off',
      eqeqeq: 'error',
      'no-console': 'error'
    }
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      ...notFrom(...NOT_CORE),
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'process',
        'localStorage',
        'fetch',
        'Buffer',
        'require'
      ]
    }
  },
  ...FLOORS.map((floor, at) => ({
    files: [`core/${floor}/**/*.ts`],
    ignores: ['**/*.test.ts'],
    rules: notFrom(...NOT_CORE, ...FLOORS.slice(at + 1).map((above) => `**/${above}/**`))
  })),
  { files: ['core/*.ts'], ignores: ['**/*.test.ts'], rules: notFrom(...NOT_CORE, './*/**') },
  {
    files: ['web/**/*.{ts,vue}'],
    ignores: ['**/*.test.ts'],
    rules: notFrom('node:*', 'express', 'sequelize', 'sqlite3', '**/server/**', '**/cli/**', '**/demo/**')
  },
  { files: ['server/**/*.ts'], rules: notFrom('vue', 'pinia', 'element-plus', '**/web/**', '**/cli/**') },
  { files: ['cli/**/*.ts', 'bench/**/*.ts', 'e2e/**/*.ts'], rules: { 'no-console': 'off' } },
  {
    files: ['core/**/*.ts'],
    ignores: ['core/dialect/**', '**/*.test.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'BinaryExpression[operator=/^[!=]==$/] > Literal[value=/^(postgresql|mariadb|mysql|sqlite|sqlserver|oracle)$/]',
          message: 'Ask the dialect what it can do; only core/dialect knows dialects by name.'
        }
      ]
    }
  }
)
