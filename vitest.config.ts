import { defineConfig } from 'vitest/config'

/** Tests of the command line, the server and what is worked out: no page, nothing in real time. */
const COMMANDS = [
  'tests/command-line.test.ts',
  'tests/drawn.test.ts',
  'tests/files.test.ts',
  'tests/fuzz.test.ts',
  'tests/kits.test.ts',
  'tests/playing.test.ts',
  'tests/server.test.ts',
  'tests/variations.test.ts',
]

const shared = { testTimeout: 120_000, hookTimeout: 240_000, pool: 'forks' as const }

export default defineConfig({
  test: {
    reporters: ['default'],
    projects: [
      {
        // Nothing here looks at a clock: two files at a time.
        test: {
          ...shared,
          name: 'parts',
          include: ['packages/**/*.test.ts', 'packages/**/*.test.tsx'],
          maxWorkers: 2,
          sequence: { groupOrder: 0 },
        },
      },
      {
        test: { ...shared, name: 'commands', include: COMMANDS, maxWorkers: 2, sequence: { groupOrder: 0 } },
      },
      {
        // One file after the other: these play in real time and want the machine for themselves.
        test: {
          ...shared,
          name: 'whole',
          include: ['tests/**/*.test.ts'],
          exclude: COMMANDS,
          maxWorkers: 1,
          fileParallelism: false,
          sequence: { groupOrder: 1 },
        },
      },
    ],
  },
})
