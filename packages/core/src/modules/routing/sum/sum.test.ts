import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('sum', {
  inputs: 'in',
  outputs: 'out',
  params: 'level gain',
})

describe('sum', () => {
  it('adds voices up, or balances them', () => {
    const heard = hear(
      patchOf(
        [
          ['a', 'value', { value: 1 }],
          ['b', 'value', { value: 2 }],
          ['d', 'value', { value: 3 }],
          ['s', 'stack', { voices: 3 }],
          ['m', 'sum'],
          ['x', 'sum', { gain: 'balanced' }],
        ],
        ['a.out > s.in1', 'b.out > s.in2', 'd.out > s.in3', 's.out > m.in', 's.out > x.in'],
      ),
      0.01,
      { taps: ['m.out', 'x.out'] },
    )
    expect(heard.tap('m.out')[100]).toBe(6)
    expect(heard.tap('x.out')[100]).toBeCloseTo(6 / Math.sqrt(3), 5)
  })
})
