import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { given, rises } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('compare', {
  inputs: 'a b',
  outputs: 'above below',
  params: 'level hysteresis',
})

describe('compare', () => {
  it('a comparator with hysteresis does not chatter', () => {
    const gates = (hysteresis: number): number =>
      rises(
        hear(
          patchOf(
            [
              ['l', 'lfo', { rate: 1, shape: 'triangle' }],
              ['w', 'noise', { level: 0.05 }],
              ['m', 'mix'],
              ['c', 'compare', { hysteresis }],
            ],
            ['l.out > m.in1', 'w.white > m.in2', 'm.out > c.a'],
          ),
          2,
          { taps: ['c.above'] },
        ).tap('c.above'),
      ).length
    expect(gates(0)).toBeGreaterThan(10)
    expect(gates(0.2)).toBe(2)
  })
})

describe('compare', () => {
  it('compares with the other input, or with its level', () => {
    expect(given('compare', { level: 0.5 }, { a: 0.6 }, ['above', 'below'])).toEqual([1, 0])
    expect(given('compare', {}, { a: 0.5, b: 0.5 }, ['above', 'below'])).toEqual([0, 0])
  })
})
