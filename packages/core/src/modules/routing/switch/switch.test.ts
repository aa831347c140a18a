import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('switch', {
  inputs: 'in1 in2 in3 in4 in5 in6 in7 in8 clock reset select',
  outputs: 'out',
  params: 'steps order fade',
})

describe('switch', () => {
  it('goes on at the clock, or to where select points', () => {
    const heard = hear(
      patchOf(
        [
          ['c', 'clock', { source: 'own', tempo: 60 }],
          ['a', 'value', { value: 1 }],
          ['b', 'value', { value: 2 }],
          ['d', 'value', { value: 3 }],
          ['m', 'switch', { steps: 3 }],
        ],
        ['c.beat > m.clock', 'a.out > m.in1', 'b.out > m.in2', 'd.out > m.in3'],
      ),
      5,
      { taps: ['m.out'] },
    )
    const at = (port: string): number[] =>
      [0, 1, 2, 3, 4].map((second) => heard.tap(port)[second * 48000 + 100]!)
    expect(at('m.out')).toEqual([1, 2, 3, 1, 2])
    expect(given('switch', { steps: 4 }, { in1: 1, in3: 5, select: 0.6 }, ['out'])).toEqual([5])
  })
})
