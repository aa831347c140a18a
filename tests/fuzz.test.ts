/**
 * Cases at random, a short run: mutated patches, events, archives, sounds, MIDI files, scales and formulas through the
 * command line's own functions, and random graphs. Seeds are printed; `npm run fuzz -- --minutes 30` runs on.
 */
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { ROOT } from './support/browser.ts'

const RUNS = 100
const SEED = 1

it(`holds ${RUNS} cases of every class from seed ${SEED}`, () => {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [join(ROOT, 'scripts/fuzz.mjs'), '--runs', String(RUNS), '--seed', String(SEED)],
    { encoding: 'utf8', timeout: 600_000 },
  )
  console.log(stdout)
  expect(stderr).toBe('')
  expect(status).toBe(0)
  // Every class finds both what is taken and what is not, or it tries nothing.
  for (const line of stdout.trim().split('\n').slice(1))
    expect(line).toMatch(/: \d+ cases, [1-9]\d* taken, (\d+) refused, 0 faults$/)
}, 620_000)
