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

/** Files of the page that are above the limits. */
const OLD_PAGE = [
  'audio/engine-client.ts',
  'bench/cables.tsx',
  'bench/canvas.tsx',
  'bench/card.tsx',
  'bench/connect-line.tsx',
  'bench/drawer.tsx',
  'bench/finder.tsx',
  'bench/inspector.tsx',
  'bench/keys.tsx',
  'bench/probe.tsx',
  'bench/shortcuts.ts',
  'devices/devices.tsx',
  'guide/guide.tsx',
  'store/document.ts',
  'topbar.tsx',
  'ui/param-field.tsx',
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
    },
  },
  // A file may have 500 lines with a reason in its first one.
  {
    files: ['**/*.ts', '**/*.tsx', '**/*.js', '**/*.mjs'],
    rules: {
      'max-lines': ['error', 300],
      'max-lines-per-function': ['error', 60],
      complexity: ['error', 15],
      'max-statements-per-line': ['error', { max: 1 }],
    },
  },
  // A chapter of tests is no function.
  { files: ['**/*.test.ts', '**/*.test.tsx'], rules: { 'max-lines-per-function': 'off' } },
  // The page from before its base is built anew: this list only ever gets shorter.
  {
    files: OLD_PAGE.map((file) => `packages/web/src/${file}`),
    rules: {
      'max-lines': ['error', 600],
      'max-lines-per-function': ['error', 220],
      complexity: ['error', 25],
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
