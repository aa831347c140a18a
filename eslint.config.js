import js from 'typescript-eslint'
import { ownLookups } from './scripts/lint/own-lookups.js'

/** Imports point one way: units ← describe ← modules, patch ← compile ← engine ← render; core knows nobody. */
const CORE_ORDER = ['units', 'describe', 'modules', 'patch', 'compile', 'engine', 'notes', 'render']
const mayNot = {
  units: ['describe/helpers', 'modules', 'patch', 'compile', 'engine', 'notes', 'render'],
  describe: ['modules', 'patch', 'compile', 'engine', 'notes', 'render'],
  modules: ['patch', 'compile', 'engine', 'notes', 'render'],
  patch: ['compile', 'engine', 'notes', 'render'],
  compile: ['engine', 'notes', 'render'],
  engine: ['render'],
  notes: ['compile', 'engine', 'render'],
}
const INEXACT = [
  'sin',
  'cos',
  'tan',
  'pow',
  'exp',
  'log',
  'log2',
  'log10',
  'sinh',
  'cosh',
  'tanh',
  'cbrt',
  'atan',
  'atan2',
  'asin',
  'acos',
  'hypot',
  'random',
]

export default js.config(
  {
    ignores: [
      '**/dist/**',
      '**/generated/**',
      '**/node_modules/**',
      '**/*.as.ts',
      'packages/core/src/analysis/fft.d.ts',
    ],
  },
  ...js.configs.recommended,
  {
    files: ['**/*.ts', '**/*.tsx'],
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      eqeqeq: 'error',
      'no-var': 'error',
      'prefer-const': 'error',
      'max-lines': ['error', { max: 600, skipComments: true, skipBlankLines: true }],
    },
  },
  {
    files: ['packages/*/src/**/*.ts', 'packages/*/src/**/*.tsx'],
    ignores: ['**/*.test.ts', 'packages/core/src/testing/**', 'packages/core/src/speed/**'],
    plugins: { ypsilon: { rules: { 'own-lookups': ownLookups } } },
    languageOptions: {
      parserOptions: {
        projectService: {
          allowDefaultProject: ['packages/web/src/audio/worklet.ts'],
          defaultProject: 'packages/web/tsconfig.worklet.json',
        },
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: {
      'ypsilon/own-lookups': 'error',
      // Arguments stand on the stack: a long list overflows it.
      'no-restricted-syntax': [
        'error',
        {
          selector: "CallExpression[callee.property.name='push'] > SpreadElement",
          message: 'A long list overflows the stack: append(list, more).',
        },
      ],
    },
  },
  {
    files: ['packages/core/src/**/*.ts'],
    ignores: ['**/*.test.ts', 'packages/core/src/testing/**', 'packages/core/src/speed/**'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['react', 'react-*', 'koa', 'node:*', '@ypsilon/*', 'puppeteer*'],
              message: 'The core knows nothing of page, server and command line.',
            },
          ],
        },
      ],
      'no-restricted-globals': ['error', 'window', 'document', 'navigator', 'process', 'require'],
    },
  },
  // Numbers that reach audio are computed in the kernels or with + − × ÷ √ only: these differ between machines.
  {
    files: ['packages/core/src/{compile,engine,notes,render,modules}/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        ...INEXACT.map((property) => ({
          object: 'Math',
          property,
          message: 'Differs between machines; compute it in a kernel.',
        })),
      ],
    },
  },
  ...Object.entries(mayNot).map(([folder, others]) => ({
    files: [`packages/core/src/${folder}/**/*.ts`],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: [
                ...others.map((other) => `../${other}/*`),
                ...others.map((other) => `../../../${other}/*`),
                'react',
                'react-*',
                'koa',
                'node:*',
                '@ypsilon/*',
              ],
              message: `Imports point one way: ${CORE_ORDER.join(' ← ')}.`,
            },
          ],
        },
      ],
    },
  })),
)
