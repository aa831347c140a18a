import { describe, expect, it } from 'vitest'
import { amplitudes, db } from '../testing/measure.ts'
import { resample } from './resample.ts'

const sine = (hz: number, rate: number, seconds = 3): { rate: number; channels: Float32Array[] } => ({
  rate,
  channels: [
    Float32Array.from({ length: rate * seconds }, (_, i) => Math.sin((2 * Math.PI * hz * i) / rate)),
  ],
})

describe('resampling', () => {
  it.each([
    [44100, 48000],
    [48000, 44100],
    [96000, 48000],
    [22050, 48000],
    [192000, 44100],
    [47999, 48000],
  ])('%i Hz to %i Hz keeps tones and adds nothing', (from, to) => {
    const size = 65536
    for (const share of [0.02, 0.2, 0.44]) {
      const bin = to / size,
        hz = Math.round((share * Math.min(from, to)) / bin) * bin
      const y = resample(sine(hz, from), to).channels[0]!
      expect(y.length).toBe(3 * to)
      const spectrum = amplitudes(y, size, Math.floor(to / 2))
      const at = Math.round(hz / bin)
      const tone = Math.max(...spectrum.slice(at - 3, at + 4))
      expect(Math.abs(db(tone)), `${hz}`).toBeLessThan(0.1)
      let worst = 0
      spectrum.forEach((a, i) => {
        if (Math.abs(i - at) > 10) worst = Math.max(worst, a)
      })
      expect(db(worst), `${hz}`).toBeLessThan(-98)
      // In time as well: no shift.
      const n = Math.floor(to * 1.5)
      expect(y[n]!).toBeCloseTo(Math.sin((2 * Math.PI * hz * n) / to), 2)
    }
  })

  it('takes out what the lower rate cannot hold', () => {
    const y = resample(sine(30000, 96000), 48000).channels[0]!
    expect(db(Math.max(...amplitudes(y, 65536, 24000)))).toBeLessThan(-98)
  })

  it('leaves constants and equal rates alone, and refuses what is no rate', () => {
    const flat = { rate: 44100, channels: [new Float32Array(8820).fill(0.5)] }
    expect(resample(flat, 48000).channels[0]![4800]!).toBeCloseTo(0.5, 7)
    expect(resample(flat, 44100)).toBe(flat)
    expect(() => resample(flat, 0)).toThrow(/not 0/)
  })
})
