import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('limiter', {
  inputs: 'in',
  outputs: 'out reduction',
  params: 'ceiling release lookahead',
})

const peak = (x: Float32Array): number => x.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
const tone = (level: number, hz = 1000): readonly [string, string, Record<string, number | boolean>] => [
  'o',
  'oscillator',
  { tracking: false, frequency: hz, level },
]

describe('limiter', () => {
  it('never lets anything over its ceiling and leaves the rest alone', () => {
    const loud = hear(
      patchOf(
        [
          ['w', 'noise'],
          ['a', 'amplifier', { level: 12 }],
          ['l', 'limiter', { ceiling: -6 }],
        ],
        ['w.white > a.in', 'a.out > l.in'],
      ),
      1,
      { taps: ['l.out'] },
    ).tap('l.out')
    expect(peak(loud)).toBeLessThanOrEqual(10 ** (-6 / 20) + 1e-6)
    expect(peak(loud)).toBeGreaterThan(0.3)
    const quiet = hear(patchOf([tone(0.3), ['l', 'limiter', { ceiling: -6 }]], ['o.sine > l.in']), 0.2, {
      taps: ['o.sine', 'l.out'],
    })
    // 1.5 ms, and what it takes to see between samples.
    const late = 72 + 31
    expect(quiet.tap('l.out').subarray(late)).toEqual(
      quiet.tap('o.sine').subarray(0, quiet.tap('o.sine').length - late),
    )
  })

  it('looks ahead as far as it is told, and says what it takes off', () => {
    for (const lookahead of [0, 0.5, 1.5, 10]) {
      const heard = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['o', 'oscillator', { frequency: 1000, tracking: false }],
            ['a', 'amplifier', { level: 12 }],
            ['l', 'limiter', { ceiling: -6, lookahead, release: 30 }],
          ],
          ['o.sine > a.in', 'n.gate > a.cv', 'a.out > l.in'],
        ),
        1,
        { play: '60@0.1+0.5', taps: ['l.out', 'l.reduction'] },
      )
      expect(peak(heard.tap('l.out')), `${lookahead}`).toBeLessThanOrEqual(10 ** (-6 / 20) + 1e-6)
      // 12 dB above, 6 dB below: 18 dB go, 0.3 of 60.
      expect(peak(heard.tap('l.reduction').subarray(9600, 24000)), `${lookahead}`).toBeCloseTo(0.3, 2)
      const first = heard.tap('l.out').findIndex((x) => x !== 0)
      expect(
        Math.abs(first - 4801 - 31 - Math.max(1, Math.round(lookahead * 48))),
        `${lookahead}`,
      ).toBeLessThan(2)
      expect(heard.tap('l.reduction').at(-1)!).toBeCloseTo(0, 3)
    }
  })
})
