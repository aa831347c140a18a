import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, db } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('equalizer', {
  inputs: 'in',
  outputs: 'out',
  params:
    'b1type b1freq b1gain b1q b1on b2type b2freq b2gain b2q b2on b3type b3freq b3gain b3q b3on b4type b4freq b4gain b4q b4on b5type b5freq b5gain b5q b5on b6type b6freq b6gain b6q b6on output',
})

const levelAt = (hz: number, params: Record<string, number | string | boolean>): number => {
  const bin = Math.round((hz * 32768) / 48000)
  const out = hear(
    patchOf(
      [
        ['o', 'oscillator', { tracking: false, frequency: (bin * 48000) / 32768 }],
        ['e', 'equalizer', { b2on: false, b3on: false, b4on: false, b5on: false, ...params }],
      ],
      ['o.sine > e.in'],
    ),
    1.2,
    { taps: ['e.out'] },
  ).tap('e.out')
  return db(amplitudes(out, 32768, 20000)[bin]!)
}
/** Analogue frequency, relative to the band's, that the bilinear transform makes of a frequency. */
const warped = (hz: number, band: number): number =>
  Math.tan((Math.PI * hz) / 48000) / Math.tan((Math.PI * band) / 48000)

describe('equaliser', () => {
  it('leaves everything as it is while nothing is set', () => {
    const heard = hear(
      patchOf(
        [
          ['w', 'noise'],
          ['e', 'equalizer'],
        ],
        ['w.white > e.in'],
      ),
      0.1,
      { taps: ['w.white', 'e.out'] },
    )
    expect(heard.tap('e.out')).toEqual(heard.tap('w.white'))
  })
  it.each([200, 700, 1000, 3000])('bell at %s Hz as its prototype', (hz) => {
    const a = 10 ** (9 / 40),
      q = 2,
      w = warped(hz, 1000)
    const expected =
      10 * Math.log10(((1 - w * w) ** 2 + ((a * w) / q) ** 2) / ((1 - w * w) ** 2 + (w / (a * q)) ** 2))
    expect(levelAt(hz, { b3on: true, b3freq: 1000, b3gain: 9, b3q: q })).toBeCloseTo(expected, 1)
  })
  it.each([50, 400, 1000, 5000])('shelves at %s Hz as their prototypes', (hz) => {
    const a = 10 ** (6 / 40),
      w = warped(hz, 1000),
      s = Math.sqrt(a) / Math.SQRT1_2
    const ratio = (over: number, under: number): number => 10 * Math.log10(over / under)
    const near = (1 - a * w * w) ** 2 + (s * w) ** 2,
      far = (a - w * w) ** 2 + (s * w) ** 2
    expect(levelAt(hz, { b2on: true, b2freq: 1000, b2gain: 6, b2q: Math.SQRT1_2 })).toBeCloseTo(
      ratio(a * a * far, near),
      1,
    )
    expect(levelAt(hz, { b5on: true, b5freq: 1000, b5gain: 6, b5q: Math.SQRT1_2 })).toBeCloseTo(
      ratio(a * a * near, far),
      1,
    )
  })
  it('cuts by 12 dB an octave', () => {
    expect(
      levelAt(500, { b1on: true, b1freq: 4000 }) - levelAt(250, { b1on: true, b1freq: 4000 }),
    ).toBeCloseTo(12, 0)
    expect(
      levelAt(1000, {
        b4on: true,
        b4type: 'notch',
        b4freq: (Math.round((1000 * 32768) / 48000) * 48000) / 32768,
      }),
    ).toBeLessThan(-60)
  })
})
