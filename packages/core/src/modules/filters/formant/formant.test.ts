import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('formant', {
  inputs: 'in',
  outputs: 'out',
  params: 'vowel size sharpness mix',
})

describe('formant', () => {
  it('peaks where its vowel does, and moves with its size', () => {
    const loudest = (size: number): number => {
      const x = hear(
        patchOf(
          [
            ['w', 'noise'],
            ['f', 'formant', { vowel: 0, size, sharpness: 1, mix: 1 }],
          ],
          ['w.white > f.in'],
        ),
        3,
        { taps: ['f.out'] },
      ).tap('f.out')
      const a = amplitudes(x, 65536, 48000)
      let best = 0,
        at = 0
      // Octave-smoothed: the power of a sixth of an octave around each place.
      for (let hz = 200; hz < 3000; hz *= 1.02) {
        let power = 0
        for (let k = Math.round((hz / 1.06) * (65536 / 48000)); k < hz * 1.06 * (65536 / 48000); k += 1)
          power += a[k]! ** 2 / hz
        if (power > best) [best, at] = [power, hz]
      }
      return at
    }
    const middle = loudest(0)
    expect(middle).toBeGreaterThan(400)
    expect(middle).toBeLessThan(1200)
    expect(loudest(1) / middle).toBeCloseTo(2 ** 0.6, 0)
  })
})
