import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('folder', {
  inputs: 'in',
  outputs: 'out',
  params: 'folds symmetry output',
})

const peak = (x: Float32Array): number => x.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
const tone = (level: number, hz = 1000): readonly [string, string, Record<string, number | boolean>] => [
  'o',
  'oscillator',
  { tracking: false, frequency: hz, level },
]

describe('folder', () => {
  it('the folder turns peaks round and stays within ±1', () => {
    const out = hear(patchOf([tone(1, 110), ['f', 'folder', { folds: 0.4 }]], ['o.sine > f.in']), 0.5, {
      taps: ['f.out'],
    })
      .tap('f.out')
      .subarray(12000)
    expect(peak(out)).toBeLessThan(1.1)
    let turns = 0
    for (let i = 2; i < out.length; i += 1)
      if ((out[i]! - out[i - 1]!) * (out[i - 1]! - out[i - 2]!) < 0) turns += 1
    expect(turns / (110 * 0.25)).toBeGreaterThan(6)
  })
})
