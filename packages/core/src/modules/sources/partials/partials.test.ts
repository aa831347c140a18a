import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, centsBetween, frequencyOf, rms } from '../../../testing/measure.ts'
import { hzOf } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('partials', {
  inputs: 'pitch reset',
  outputs: 'out odd even',
  params: 'count series stretch tilt motion motionRate motionRatio level',
  data: 'levels on ratios',
})

const SIZE = 65536

describe('partials', () => {
  it('lie where their series says', () => {
    const series: readonly [string, number, (n: number) => number][] = [
      ['harmonic', 0, (n) => n],
      ['odd', 0, (n) => 2 * n - 1],
      ['stretched', 0.8, (n) => n * Math.sqrt(1 + 0.008 * n * n)],
      ['power', 0.4, (n) => n ** 1.2],
    ]
    for (const [name, stretch, ratio] of series) {
      const out = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['p', 'partials', { count: 6, series: name, stretch }],
          ],
          ['n.pitch > p.pitch'],
        ),
        3,
        { play: '48@0+3', taps: ['p.out'] },
      ).tap('p.out')
      for (let n = 1; n <= 6; n += 1)
        expect(
          Math.abs(
            centsBetween(frequencyOf(out, hzOf(48) * ratio(n), 48000, 4800, 96000), hzOf(48) * ratio(n)),
          ),
          `${name} ${n}`,
        ).toBeLessThan(0.2)
    }
  })

  it('fall by their tilt, and odd and even ones come apart', () => {
    const heard = hear(patchOf([['p', 'partials', { count: 8, tilt: -6.0206 }]], []), 2, {
      taps: ['p.out', 'p.odd', 'p.even'],
    })
    const bin = (n: number): number => Math.round((261.6256 * n * SIZE) / 48000)
    const near = (x: Float32Array, n: number): number => {
      const a = amplitudes(x, SIZE, 24000)
      return Math.max(...Array.from(a.subarray(bin(n) - 3, bin(n) + 4)))
    }
    for (let n = 2; n <= 8; n += 1)
      expect(near(heard.tap('p.out'), n) / near(heard.tap('p.out'), 1)).toBeCloseTo(1 / n, 1)
    expect(near(heard.tap('p.odd'), 2)).toBeLessThan(1e-4)
    expect(near(heard.tap('p.even'), 1)).toBeLessThan(1e-4)
    expect(near(heard.tap('p.even'), 4)).toBeCloseTo(near(heard.tap('p.out'), 4), 3)
  })

  it('take levels, switches and ratios of their own, and move', () => {
    const out = hear(
      patchOf(
        [
          [
            'p',
            'partials',
            { count: 3, series: 'own', tilt: 0 },
            { data: { ratios: [1, 2.7, 5.1], levels: [1, 0.5, 1], on: [true, true, false] } },
          ],
        ],
        [],
      ),
      2,
      { taps: ['p.out'] },
    ).tap('p.out')
    const a = amplitudes(out, SIZE, 24000),
      at = (ratio: number): number =>
        Math.max(
          ...Array.from(
            a.subarray(
              Math.round((261.6256 * ratio * SIZE) / 48000) - 3,
              Math.round((261.6256 * ratio * SIZE) / 48000) + 4,
            ),
          ),
        )
    expect(at(2.7) / at(1)).toBeCloseTo(0.5, 1)
    expect(at(5.1)).toBeLessThan(1e-4)
    const moving = hear(patchOf([['p', 'partials', { count: 1, motion: 1, motionRate: 4 }]], []), 1, {
      taps: ['p.out'],
    }).tap('p.out')
    const blocks = Array.from({ length: 40 }, (_, i) => rms(moving, i * 1200, i * 1200 + 1200))
    expect(Math.min(...blocks)).toBeLessThan(0.05)
    expect(Math.max(...blocks)).toBeGreaterThan(0.5)
  })
})
