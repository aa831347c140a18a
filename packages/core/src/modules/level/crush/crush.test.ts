import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('crush', {
  inputs: 'in',
  outputs: 'out',
  params: 'bits rate mix',
})

const tone = (level: number, hz = 1000): readonly [string, string, Record<string, number | boolean>] => [
  'o',
  'oscillator',
  { tracking: false, frequency: hz, level },
]

describe('crush', () => {
  it('rounds to its bits and holds for its rate', () => {
    const bits = new Set(
      hear(patchOf([tone(0.99), ['c', 'crush', { bits: 3 }]], ['o.sine > c.in']), 0.1, {
        taps: ['c.out'],
      }).tap('c.out'),
    )
    // Eight levels, half a step to either side of 0, and the silence before the first sample.
    expect([...bits].filter((x) => x !== 0).every((x) => Number.isInteger(x * 4 - 0.5))).toBe(true)
    expect([...bits].filter((x) => x !== 0).length).toBe(8)
    const one = hear(patchOf([tone(0.99), ['c', 'crush', { bits: 1 }]], ['o.sine > c.in']), 0.1, {
      taps: ['c.out'],
    }).tap('c.out')
    expect(new Set(one.subarray(1))).toEqual(new Set([0.5, -0.5]))
    const held = hear(
      patchOf([tone(0.9, 100), ['c', 'crush', { bits: 24, rate: 4800 }]], ['o.sine > c.in']),
      0.1,
      { taps: ['c.out'] },
    ).tap('c.out')
    let changes = 0
    for (let i = 1; i < 4800; i += 1) if (held[i] !== held[i - 1]) changes += 1
    expect(changes).toBeGreaterThan(465)
    expect(changes).toBeLessThan(482)
  })
})
