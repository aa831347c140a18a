import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('busin', {
  inputs: 'in',
  outputs: '',
  params: 'bus',
})

describe('busin', () => {
  it('carries what is sent to what reads the bus of its name', () => {
    const heard = hear(
      patchOf(
        [
          ['a', 'value', { value: 0.25 }],
          ['b', 'value', { value: 0.5 }],
          ['s', 'busin', { bus: 'mist' }],
          ['t', 'busin', { bus: 'mist' }],
          ['r', 'busout', { bus: 'mist' }],
          ['other', 'busout', { bus: 'fog' }],
          ['m', 'mix'],
          ['n', 'mix'],
        ],
        ['a.out > s.in', 'b.out > t.in * 2', 'r.out > m.in1', 'other.out > n.in1'],
      ),
      0.01,
      { taps: ['m.out', 'n.out'] },
    )
    expect(heard.tap('m.out')[100]).toBe(1.25)
    expect(heard.tap('n.out')[100]).toBe(0)
  })
})
