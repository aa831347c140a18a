import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, db } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('multiply', {
  inputs: 'a b',
  outputs: 'out',
  params: 'depth level',
})

const tone = (level: number, hz = 1000): readonly [string, string, Record<string, number | boolean>] => [
  'o',
  'oscillator',
  { tracking: false, frequency: hz, level },
]

describe('multiply', () => {
  it('gives exactly the sum and the difference', () => {
    const a = amplitudes(
      hear(
        patchOf(
          [tone(1, 3000), ['p', 'oscillator', { tracking: false, frequency: 750 }], ['m', 'multiply']],
          ['o.sine > m.a', 'p.sine > m.b'],
        ),
        1,
        { taps: ['m.out'] },
      ).tap('m.out'),
      16384,
      24000,
    )
    expect(db(a[Math.round((2250 * 16384) / 48000)]!)).toBeCloseTo(-6.02, 1)
    expect(db(a[Math.round((3750 * 16384) / 48000)]!)).toBeCloseTo(-6.02, 1)
    expect(db(a[1024]!)).toBeLessThan(-100)
  })
})
