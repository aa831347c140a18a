import { describe, expect, it } from 'vitest'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('shift', {
  inputs: 'in',
  outputs: 'out',
  params: 'octaves semitones cents',
})

describe('shift', () => {
  it('adds exact intervals', () => {
    expect(given('shift', { octaves: 1, semitones: -12 }, { in: 0.25 }, ['out'])).toEqual([0.25])
    expect(given('shift', { semitones: 7 }, { in: 0 }, ['out'])[0]).toBeCloseTo(7 / 12, 5)
    expect(given('shift', { cents: -50 }, { in: 1 }, ['out'])[0]).toBeCloseTo(1 - 1 / 24, 5)
  })
})
