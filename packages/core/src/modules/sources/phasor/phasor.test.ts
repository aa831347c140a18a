import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('phasor', {
  inputs: 'pitch hz sync reset',
  outputs: 'out',
  params: 'frequency tracking octave semitones fine',
})

describe('phasor', () => {
  it('goes from 0 to 1 at its frequency, and never is 1', () => {
    const x = hear(patchOf([['p', 'phasor', { tracking: false, frequency: 100 }]], []), 0.1, {
      taps: ['p.out'],
    }).tap('p.out')
    expect(x.every((y) => y >= 0 && y < 1)).toBe(true)
    const turns = [...x.keys()].filter((i) => i > 0 && x[i]! < x[i - 1]!)
    expect(turns).toHaveLength(9)
    turns.forEach((at, n) => {
      expect(Math.abs(at - 480 * (n + 1))).toBeLessThanOrEqual(1)
    })
  })
})
