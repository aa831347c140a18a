import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { db, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('dynamics', {
  inputs: 'in side',
  outputs: 'out reduction',
  params: 'threshold ratio attack release knee makeup mix lookahead',
})

const tone = (level: number, hz = 1000): readonly [string, string, Record<string, number | boolean>] => [
  'o',
  'oscillator',
  { tracking: false, frequency: hz, level },
]

describe('dynamics', () => {
  it('follows its curve', () => {
    const gain = (level: number, ratio: number): number =>
      db(
        rms(
          hear(
            patchOf(
              [
                tone(10 ** (level / 20)),
                ['d', 'dynamics', { threshold: -20, ratio, knee: 0, attack: 0.1, release: 500 }],
              ],
              ['o.sine > d.in'],
            ),
            2,
            { taps: ['d.out'] },
          ).tap('d.out'),
          48000,
        ) * Math.SQRT2,
      )
    expect(gain(-30, 4)).toBeCloseTo(-30, 1)
    expect(gain(0, 4)).toBeCloseTo(-15, 0)
    expect(gain(-8, 4)).toBeCloseTo(-17, 0)
    expect(gain(-30, 0.5)).toBeLessThan(-38)
    expect(gain(-10, 0.5)).toBeCloseTo(-10, 0)
  })

  it('ducks to a side signal', () => {
    const heard = hear(
      patchOf(
        [tone(0.5), ['n', 'notes'], ['d', 'dynamics', { threshold: -40, ratio: 20, attack: 1, release: 50 }]],
        ['o.sine > d.in', 'n.gate > d.side'],
      ),
      1,
      { play: '60@0.25+0.25', taps: ['d.out'] },
    ).tap('d.out')
    expect(rms(heard, 4800, 9600)).toBeGreaterThan(0.3)
    expect(rms(heard, 16800, 23000)).toBeLessThan(0.02)
    expect(rms(heard, 43000)).toBeGreaterThan(0.3)
  })

  it.each([50, 60, 440, 3000, 9000])('reads a sine of %i Hz at its peak', (hz) => {
    const heard = hear(
      patchOf(
        [tone(1, hz), ['d', 'dynamics', { threshold: -20, ratio: 100, knee: 0, attack: 1, release: 100 }]],
        ['o.sine > d.in'],
      ),
      1,
      { taps: ['d.reduction'] },
    ).tap('d.reduction')
    // 20 dB over the threshold, all but a hundredth taken off.
    const reads = (60 * rms(heard, 24000)) / 0.99
    expect(Math.abs(reads - 20)).toBeLessThan(0.1)
  })
})
