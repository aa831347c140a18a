import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { peakOf } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('output', {
  inputs: 'in',
  outputs: '',
  params: 'level pair mono',
})

describe('output', () => {
  it('plays at its level, on both sides or the same on both', () => {
    const patch = (params: Record<string, number | boolean>): Float32Array[] => {
      const { out, right } = hear(
        patchOf(
          [
            ['o', 'oscillator', { tracking: false, frequency: 480, level: 0.5 }],
            ['p', 'pan', { pan: -1 }],
            ['out', 'output', params],
          ],
          ['o.sine > p.in', 'p.out > out.in'],
        ),
        0.3,
      )
      return [out.slice(9600), right.slice(9600)]
    }
    const [left, right] = patch({ level: -6.0206 })
    expect(peakOf(left!)).toBeCloseTo(0.25, 3)
    expect(peakOf(right!)).toBe(0)
    const [a, b] = patch({ mono: true, level: 0 })
    expect(a).toEqual(b)
    expect(peakOf(a!)).toBeCloseTo(0.25, 3)
  })
})
