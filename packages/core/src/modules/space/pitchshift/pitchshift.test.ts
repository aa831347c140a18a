import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../../../catalogue.ts'
import { hear, patchOf } from '../../../testing/bench.ts'
import { click, pink, RATE, sine, through } from '../../../testing/effects.ts'
import {
  amplitudes,
  centsBetween,
  db,
  hzBetween,
  largest,
  largestStep,
  rms,
} from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('pitchshift', { inputs: 'in', outputs: 'out', params: 'semitones fine size mix per' })

/** Power of the given tones over all else, in dB. */
const purity = (x: Float32Array, tones: readonly number[]): number => {
  const bins = amplitudes(x, 65536, RATE / 2)
  let inside = 0,
    all = 0
  bins.forEach((size, n) => {
    all += size * size
    if (tones.some((hz) => Math.abs(n - (hz / RATE) * 65536) < 12)) inside += size * size
  })
  return 10 * Math.log10(inside / Math.max(1e-12, all - inside))
}

describe('pitchshift', () => {
  it.each([12, -12, 7, -5, 0.1, 24, -24])(
    'moves sines by %s semitones in tune, at their level and purely',
    (semitones) => {
      for (const hz of [80, 110.3, 440, 1234, 4000]) {
        const [left] = through('pitchshift', { semitones }, sine(hz, 2.5))()
        const wanted = hz * 2 ** (semitones / 12)
        expect(Math.abs(centsBetween(hzBetween(left!, 0.5, 2.4), wanted)), `${hz} Hz`).toBeLessThan(3)
        expect(Math.abs(db(rms(left!, RATE) / rms(sine(hz, 2.5), RATE))), `${hz} Hz`).toBeLessThan(0.5)
        expect(purity(left!, [wanted]), `${hz} Hz`).toBeGreaterThan(hz < 200 ? 26 : 36)
      }
    },
  )

  it('keeps chords together', () => {
    const notes = [220, 277.18, 329.63, 440]
    const chord = notes.map((hz) => sine(hz, 2.5, 0.2)).reduce((sum, x) => sum.map((y, n) => y + x[n]!))
    for (const semitones of [5, -7, 12]) {
      const [left] = through('pitchshift', { semitones }, chord)()
      const moved = notes.map((hz) => hz * 2 ** (semitones / 12))
      expect(purity(left!, moved), `${semitones}`).toBeGreaterThan(14)
      const bins = amplitudes(left!, 65536, RATE / 2)
      for (const hz of moved) {
        const at = Math.round((hz / RATE) * 65536)
        expect(Math.abs(db(largest(bins.subarray(at - 12, at + 13)) / 0.2)), `${hz}`).toBeLessThan(2.5)
      }
    }
  })

  it('is late by half its size, hits included, and says so', () => {
    const { latency } = CATALOGUE.get('pitchshift')!.description
    const late = latency!({ sampleRate: RATE, number: () => 60, choice: () => '' })
    expect(late).toBe(1440)
    expect(late / RATE).toBeLessThanOrEqual(0.06)
    for (const semitones of [-12, -3, 4, 12]) {
      const hits = new Float32Array(2 * RATE)
      for (let n = 0; n < 8; n += 1) hits.set(pink(0.02, n + 3), Math.round((0.1 + 0.23 * n) * RATE))
      const [left] = through('pitchshift', { semitones }, hits)()
      for (let n = 0; n < 8; n += 1) {
        const at = Math.round((0.1 + 0.23 * n) * RATE)
        const first = left!.findIndex((x, k) => k >= at && Math.abs(x) > 0.02)
        expect((first - at) / RATE, `${semitones}, hit ${n}`).toBeLessThan(0.06)
      }
    }
    const [plain] = through('pitchshift', { semitones: 0 }, click(0.2))()
    expect(plain!.findIndex((x) => x !== 0)).toBe(late)
  })

  it('is the sound itself, late, where nothing is moved, and again after it was', () => {
    const x = pink(3)
    const [left] = through('pitchshift', { semitones: 0, mix: 1 }, x)()
    expect(left!.subarray(1440)).toEqual(x.subarray(0, x.length - 1440))
    const back = hear(
      patchOf(
        [
          ['i', 'input'],
          ['e', 'pitchshift', { semitones: 7 }],
          ['o', 'output'],
        ],
        ['i.out > e.in', 'e.out > o.in'],
      ),
      3,
      {
        input: { rate: RATE, channels: [x, x] },
        taps: ['e.out'],
        events: [{ t: 1, type: 'param', target: 'e.semitones', value: 0 }],
      },
    ).tap('e.out')
    const apart = largest(back.map((y, n) => y - (x[n - 1440] ?? 0)).subarray(1.5 * RATE))
    expect(apart).toBeLessThan(1e-6)
  })

  it('lets nothing fold back', () => {
    // An octave up of 14 kHz would be 28 kHz.
    const [left] = through('pitchshift', { semitones: 12 }, sine(14000, 1.5))()
    expect(db(rms(left!, RATE / 2) / rms(sine(14000, 1.5)))).toBeLessThan(-30)
  })

  it('sweeps and jumps without a click', () => {
    const wave = sine(220, 3)
    const heard = (shape: string, cables: string[]): Float32Array =>
      hear(
        patchOf(
          [
            ['i', 'input'],
            ['s', 'lfo', { shape, rate: 2.1 }],
            ['e', 'pitchshift', { semitones: 0.5 }],
          ],
          ['i.out > e.in', ...cables],
        ),
        3,
        { input: { rate: RATE, channels: [wave, wave] }, taps: ['e.out'] },
      ).tap('e.out')
    const own = largestStep(heard('sine', []))
    // An octave up doubles the steps.
    expect(largestStep(heard('sine', ['s.out > e.semitones * 12']))).toBeLessThan(2.3 * own)
    expect(largestStep(heard('square', ['s.out > e.semitones * 12']))).toBeLessThan(2.6 * own)
    expect(largestStep(heard('square', ['s.out > e.size * 1.5']))).toBeLessThan(2 * own)
  })
})
