import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['packages/**/*.test.ts', 'packages/**/*.test.tsx', 'tests/**/*.test.ts'],
    testTimeout: 120_000, hookTimeout: 240_000, pool: 'forks', reporters: ['default'],
  },
})
