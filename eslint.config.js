import js from 'typescript-eslint'
import { linesParser } from './scripts/lint/lines-parser.js'
import { ownLookups } from './scripts/lint/own-lookups.js'

/**
 * Imports point one way: what each folder of the core, and which of the files beside them, a folder may import from. One
 * that is missing may import from all, and so may be imported only where it is named.
 */
const CORE = {
  units: [],
  kernels: [],
  formula: ['units', 'kernels'],
  describe: ['units', 'formula', 'kernels', 'generated'],
  outboard: ['units', 'kernels'],
  modules: ['describe', 'units', 'formula', 'kernels', 'outboard'],
  patch: ['describe', 'units', 'formula', 'formats', 'catalogue'],
  layout: ['patch', 'describe', 'units', 'catalogue'],
  formats: ['patch', 'units', 'notes'],
  notes: ['patch', 'units', 'kernels'],
  compile: ['patch', 'describe', 'units', 'catalogue'],
  engine: [
    'compile',
    'notes',
    'outboard',
    'patch',
    'describe',
    'units',
    'kernels',
    'formats',
    'generated',
    'catalogue',
  ],
  perform: ['engine', 'compile', 'notes', 'patch', 'describe', 'units', 'kernels', 'catalogue'],
  render: ['analysis', 'perform', 'engine', 'compile', 'notes', 'patch', 'formats', 'units', 'catalogue'],
  analysis: ['formats', 'units'],
  probe: ['analysis', 'formats', 'units'],
  takes: [
    'render',
    'perform',
    'engine',
    'compile',
    'patch',
    'describe',
    'analysis',
    'formats',
    'units',
    'catalogue',
  ],
  advice: ['compile', 'perform', 'patch', 'describe', 'units', 'catalogue'],
}
/**
 * The same of the page: what is shared knows no view, stores and services no component. Only `app` knows all: it puts the
 * page together; commands and views know of it what it hands them (`app/app.ts`, `app/context.ts`).
 */
const WEB = {
  workers: [],
  audio: ['workers'],
  kept: ['audio'],
  services: ['kept', 'workers'],
  store: ['audio', 'kept', 'services'],
  ui: [],
  files: ['app', 'bench', 'kept', 'services'],
  commands: ['app', 'bench', 'files', 'store'],
  guide: ['app', 'bench', 'ui'],
  bench: ['app', 'audio', 'commands', 'store', 'ui'],
  devices: ['app', 'bench', 'kept', 'ui'],
}
const NOT_THE_CORES = ['react', 'react-*', 'koa', 'node:*', '@ypsilon/*', 'puppeteer*']
/** Rules for every folder of a package; `never`: packages that none of them may import. */
const oneWay = (source, folders, never) => {
  // Folders, and files that stand beside them.
  const all = [...new Set([...Object.keys(folders), ...Object.values(folders).flat()])]
  return Object.entries(folders).map(([folder, may]) => {
    const others = all.filter((name) => name !== folder && !may.includes(name))
    return {
      files: [`${source}/${folder}/**/*.ts`, `${source}/${folder}/**/*.tsx`],
      ignores: ['**/*.test.ts'],
      rules: {
        'no-restricted-imports': [
          'error',
          {
            patterns: [
              {
                group: [
                  ...others.flatMap((name) =>
                    ['../', '../../', '../../../'].flatMap((up) => [`${up}${name}/*`, `${up}${name}.ts`]),
                  ),
                  ...never,
                ],
                message: `Imports point one way: ${folder} may import from ${may.join(', ') || 'no other folder'}.`,
              },
            ],
          },
        ],
      },
    }
  })
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
    ignores: ['**/dist/**', '**/generated/**', '**/node_modules/**', 'packages/core/src/analysis/fft.d.ts'],
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
              group: NOT_THE_CORES,
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
    files: ['packages/core/src/{compile,engine,notes,outboard,render,modules}/**/*.ts'],
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
  ...oneWay('packages/core/src', CORE, NOT_THE_CORES),
  ...oneWay('packages/web/src', WEB, ['node:*', 'koa']),
  // Kernels: how long their files are.
  {
    files: ['**/*.as.ts'],
    languageOptions: { parser: linesParser, parserOptions: { projectService: false } },
    rules: { 'ypsilon/own-lookups': 'off' },
  },
)
