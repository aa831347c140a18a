import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, db, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('drive', {
  inputs: 'in',
  outputs: 'out',
  params: 'gain curve bias tone mix output',
})

const SIZE = 65536
/** Loudest tone under 18 kHz that is no partial of the sine, in dB against the loudest partial. */
const alias = (hz: number, curve: string, gain: number, best: boolean): number => {
  const bin = Math.round((hz * SIZE) / 48000)
  const a = amplitudes(
    hear(
      patchOf(
        [
          ['o', 'oscillator', { tracking: false, frequency: (bin * 48000) / SIZE }],
          ['d', 'drive', { gain, curve }],
        ],
        ['o.sine > d.in'],
      ),
      2,
      { taps: ['d.out'], best },
    ).tap('d.out'),
    SIZE,
    24000,
  )
  let worst = 0
  for (let i = 100; i < (18000 * SIZE) / 48000; i += 1)
    if (Math.abs(i - Math.round(i / bin) * bin) > 12) worst = Math.max(worst, a[i]!)
  return db(worst / Math.max(a[bin]!, a[2 * bin]!))
}

describe('drive', () => {
  it.each([1000, 5000])('hard at 12 dB keeps the aliases of a sine of %s Hz down', (hz) => {
    expect(alias(hz, 'hard', 12, false)).toBeLessThan(-70)
    expect(alias(hz, 'hard', 12, true)).toBeLessThan(-90)
    for (const curve of ['soft', 'tube', 'diode', 'sine'])
      expect(alias(hz, curve, 12, false), curve).toBeLessThan(-80)
  })
  it('has curves that differ to the ear', () => {
    const spectrum = (curve: string): number[] => {
      const a = amplitudes(
        hear(
          patchOf(
            [
              ['o', 'oscillator', { tracking: false, frequency: 750 }],
              ['d', 'drive', { gain: 15, curve }],
            ],
            ['o.sine > d.in'],
          ),
          1,
          { taps: ['d.out'] },
        ).tap('d.out'),
        16384,
        24000,
      )
      return [1, 2, 3, 4, 5, 6, 7].map((n) => Math.max(-60, db(a[256 * n]!)))
    }
    const all = ['soft', 'hard', 'tube', 'diode', 'sine', 'rectify'].map(spectrum)
    all.forEach((a, i) =>
      all
        .slice(i + 1)
        .forEach((b) => expect(Math.max(...a.map((x, k) => Math.abs(x - b[k]!)))).toBeGreaterThan(3)),
    )
  })
  it('keeps constant parts out, whatever the bias', () => {
    const out = hear(
      patchOf(
        [
          ['o', 'oscillator', { tracking: false, frequency: 200 }],
          ['d', 'drive', { gain: 12, curve: 'tube', bias: 0.5 }],
        ],
        ['o.sine > d.in'],
      ),
      3,
      { taps: ['d.out'] },
    )
      .tap('d.out')
      .subarray(96000)
    expect(Math.abs(out.reduce((sum, x) => sum + x, 0) / out.length)).toBeLessThan(1e-3)
  })
  it('mixes without combing: a flat answer at half mix and no bend', () => {
    const level = (hz: number): number =>
      rms(
        hear(
          patchOf(
            [
              ['o', 'oscillator', { tracking: false, frequency: hz, level: 0.01 }],
              ['d', 'drive', { curve: 'soft', mix: 0.5 }],
            ],
            ['o.sine > d.in'],
          ),
          0.5,
          { taps: ['d.out'] },
        ).tap('d.out'),
        12000,
      )
    for (const hz of [500, 4000, 12000]) expect(Math.abs(db(level(hz) / level(100)))).toBeLessThan(0.2)
  })
  it('has no latency inside a loop', () => {
    const out = hear(
      patchOf(
        [
          ['v', 'value', { value: 0 }],
          ['m', 'mix'],
          ['d', 'drive'],
          ['l', 'delayline', { unit: 'samples', time: 10, interpolation: 'none', smoothing: 0 }],
        ],
        ['v.out > m.in1', 'm.out > d.in', 'd.out > l.in', 'l.out > m.in2 * 0.5'],
      ),
      0.05,
      {
        events: [
          { t: 0.01, type: 'param', target: 'v.value', value: 0.1 },
          { t: 0.01 + 1 / 48000, type: 'param', target: 'v.value', value: 0 },
        ],
        taps: ['l.out'],
      },
    ).tap('l.out')
    expect(out.findIndex((x) => Math.abs(x) > 0.01)).toBe(490)
    expect(Math.abs(out[500]!)).toBeGreaterThan(0.02)
    expect(Math.abs(out[495]!)).toBeLessThan(0.005)
  })
})
