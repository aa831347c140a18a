import { defineConfig } from 'vitest/config'

export default defineConfig({
  // One file after the other: the end-to-end tests play in real time and want the machine for themselves.
  test: {
    include: ['packages/**/*.test.ts', 'packages/**/*.test.tsx', 'tests/**/*.test.ts'],
    testTimeout: 120_000,
    hookTimeout: 240_000,
    pool: 'forks',
    fileParallelism: false,
    reporters: ['default'],
  },
})
