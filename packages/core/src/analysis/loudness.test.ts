import { describe, expect, it } from 'vitest'
import { loudness } from './loudness.ts'

const sine = (db: number, hz: number, seconds: number, rate = 48000): Float32Array =>
  Float32Array.from(
    { length: seconds * rate },
    (_, i) => 10 ** (db / 20) * Math.sin((2 * Math.PI * hz * i) / rate),
  )

describe('loudness', () => {
  // EBU Tech 3341, cases 1 to 3: a stereo sine of 1 kHz.
  it('reads −23 and −33 LUFS where it should', () => {
    for (const level of [-23, -33]) {
      const x = sine(level, 1000, 20)
      expect(Math.abs(loudness({ rate: 48000, channels: [x, x] }) - level)).toBeLessThan(0.1)
    }
  })
  it('gates what is quiet', () => {
    const x = new Float32Array(80 * 48000)
    x.set(sine(-36, 1000, 10))
    x.set(sine(-23, 1000, 60), 10 * 48000)
    x.set(sine(-36, 1000, 10), 70 * 48000)
    expect(Math.abs(loudness({ rate: 48000, channels: [x, x] }) + 23)).toBeLessThan(0.1)
  })
  it('is the same at other rates, and silence is nothing', () => {
    const x = sine(-23, 997, 20, 44100)
    expect(Math.abs(loudness({ rate: 44100, channels: [x, x] }) + 23)).toBeLessThan(0.1)
    expect(loudness({ rate: 48000, channels: [new Float32Array(96000)] })).toBe(-Infinity)
  })
})
