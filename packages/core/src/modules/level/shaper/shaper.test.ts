import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, db } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('shaper', {
  inputs: 'in',
  outputs: 'out',
  params: 'gain mix',
  data: 'curve',
})

const tone = (level: number, hz = 1000): readonly [string, string, Record<string, number | boolean>] => [
  'o',
  'oscillator',
  { tracking: false, frequency: hz, level },
]

describe('shaper', () => {
  it('a drawn cube is a cube', () => {
    const curve = Array.from({ length: 257 }, (_, i) => (i / 128 - 1) ** 3)
    const a = amplitudes(
      hear(patchOf([tone(1, 750), ['s', 'shaper', {}, { data: { curve } }]], ['o.sine > s.in']), 1, {
        taps: ['s.out'],
      }).tap('s.out'),
      16384,
      24000,
    )
    // sin³ = ¾ sin x − ¼ sin 3x
    expect(a[256]!).toBeCloseTo(0.75, 2)
    expect(a[768]!).toBeCloseTo(0.25, 2)
    expect(db(a[512]!)).toBeLessThan(-70)
  })
})
