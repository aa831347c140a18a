import { expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { centsBetween, frequencyOf } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('comb', {
  inputs: 'in pitch',
  outputs: 'out',
  params: 'frequency feedback feedforward damping tracking',
})

it.each([55, 220, 1046.5, 2093])('comb: rings in tune at %s Hz', (hz) => {
  const out = hear(
    patchOf(
      [
        ['n', 'notes'],
        ['s', 'strike', { length: 0.1 }],
        ['c', 'comb', { frequency: hz, feedback: 0.995, damping: 0 }],
      ],
      ['n.trigger > s.trigger', 's.out > c.in'],
    ),
    2,
    { play: '60@0+1', taps: ['c.out'] },
  ).tap('c.out')
  expect(Math.abs(centsBetween(frequencyOf(out, hz, 48000, 4800, 48000), hz))).toBeLessThan(0.5)
})

it('comb: feedforward alone cuts its notches', () => {
  const heard = (hz: number): number =>
    hear(
      patchOf(
        [
          ['o', 'oscillator', { tracking: false, frequency: hz }],
          ['c', 'comb', { frequency: 1000, feedback: 0, feedforward: 1, damping: 0 }],
        ],
        ['o.sine > c.in'],
      ),
      0.5,
      { taps: ['c.out'] },
    )
      .tap('c.out')
      .subarray(12000)
      .reduce((most, x) => Math.max(most, Math.abs(x)), 0)
  expect(heard(500)).toBeLessThan(1e-4)
  expect(heard(1000)).toBeCloseTo(2, 3)
})
