import regexp from 'eslint-plugin-regexp'
import names from './scripts/lib/retired-names.mjs'
import withNuxt from './.nuxt/eslint.config.mjs'

// What is one text stands on one line: a message, a statement of SQL, an expression.
const LENGTH = { code: 140, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreRegExpLiterals: true, ignoreUrls: true }

export default withNuxt(
  { ignores: ['.output/**', '.data*/**', 'docs/**', 'server/db/migrations/**', 'kernel/**'] },
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@stylistic/max-statements-per-line': 'off',
      '@stylistic/operator-linebreak': 'off',
      'vue/multi-word-component-names': 'off',
      'vue/no-multiple-template-root': 'off',
      // More in a row are mixed up: what belongs together is one thing with names.
      'max-params': ['error', 4],
      '@stylistic/max-len': ['error', { ...LENGTH }],
      'vue/max-len': ['error', { ...LENGTH, template: 140, ignoreHTMLTextContents: true, ignoreHTMLAttributeValues: true }],
    },
  },
  {
    // Everything from outside is hostile: no expression may cost more than the length of what it reads.
    files: ['**/*.{ts,mts,mjs,vue}'],
    plugins: { regexp },
    rules: {
      'regexp/no-super-linear-backtracking': ['error', { report: 'potential' }],
      'regexp/no-super-linear-move': ['error', { report: 'potential', ignoreSticky: false }],
    },
  },
  {
    // One vocabulary. What reads the old format has its words.
    files: ['**/*.{ts,mts,mjs,vue}'],
    ignores: [
      '**/version-1.ts', 'scripts/lib/retired-names.mjs', 'scripts/lib/retired-words.mjs',
      'tests/server/lived-in.test.ts', 'tests/server/older-version.test.ts', 'tests/unit/texts.test.ts',
    ],
    plugins: { names },
    rules: { 'names/retired-names': 'error' },
  },
  {
    // Asked of every character or every hit: an object each time would cost more than all the rest.
    files: ['core/text/*.ts'],
    rules: { 'max-params': ['error', 6] },
  },
  {
    // A figure is a row of a table.
    files: ['bench/*.ts'],
    rules: { 'max-params': ['error', 5] },
  },
  {
    // The core computes: no interface, no server, no clock, no chance, no files.
    files: ['core/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['node:*', '**/server/**', '**/app/**', '#imports', 'vue', 'h3', 'drizzle-orm*', 'pg'],
              message: 'core/ imports nothing from outside itself but pure packages.',
            },
          ],
        },
      ],
      'no-restricted-globals': ['error', 'process', 'Buffer', 'window', 'document', 'fetch', 'setTimeout', 'setInterval', 'performance'],
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now', message: 'Time comes in as an argument.' },
        { object: 'Math', property: 'random', message: 'core/ is deterministic.' },
      ],
    },
  },
)
