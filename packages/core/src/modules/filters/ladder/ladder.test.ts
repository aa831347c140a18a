import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, centsBetween, db, frequencyOf, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('ladder', {
  inputs: 'in pitch',
  outputs: 'out',
  params: 'cutoff resonance slope mode drive tracking',
})

const whistle = (cutoff: number, resonance: number): Float32Array =>
  hear(
    patchOf(
      [
        ['s', 'strike', { level: 0.3 }],
        ['n', 'notes'],
        ['l', 'ladder', { cutoff, resonance }],
      ],
      ['n.trigger > s.trigger', 's.out > l.in'],
    ),
    6,
    { play: '60@0+1', taps: ['l.out'] },
  ).tap('l.out')

/** Level of a sine through the filter against the same without resonance and drive, quiet enough to be linear. */
const levelAt = (hz: number, params: Record<string, number | string>): number => {
  const bin = Math.round((hz * 32768) / 48000)
  const out = hear(
    patchOf(
      [
        ['o', 'oscillator', { tracking: false, frequency: (bin * 48000) / 32768, level: 0.001 }],
        ['l', 'ladder', params],
      ],
      ['o.sine > l.in'],
    ),
    1.5,
    { taps: ['l.out'] },
  ).tap('l.out')
  return db(amplitudes(out, 32768, 36000)[bin]! / 0.001)
}

describe('ladder', () => {
  it.each([50, 200, 1000, 3000, 8000])('whistles in tune at %s Hz from a resonance of 100 %', (hz) => {
    for (const resonance of [1, 1.1]) {
      const out = whistle(hz, resonance)
      expect(Math.abs(centsBetween(frequencyOf(out, hz, 48000, 192000, 96000), hz))).toBeLessThan(3)
      expect(rms(out, 240000)).toBeGreaterThan(0.03)
    }
  })
  it('dies away below it', () => {
    expect(rms(whistle(1000, 0.9), 240000)).toBeLessThan(1e-4)
  })
  it('has the slope it says, an octave and two above the cutoff', () => {
    for (const [slope, poles] of [
      ['6', 1],
      ['12', 2],
      ['18', 3],
      ['24', 4],
    ] as const) {
      for (const hz of [1000, 2000, 4000]) {
        // The prototype at the frequency the bilinear transform makes of it.
        const w = Math.tan((Math.PI * hz) / 48000) / Math.tan((Math.PI * 1000) / 48000)
        expect(levelAt(hz, { cutoff: 1000, resonance: 0, slope })).toBeCloseTo(
          -10 * poles * Math.log10(1 + w * w),
          1,
        )
      }
    }
  })
  it('passes what its mode says', () => {
    expect(levelAt(8000, { cutoff: 1000, resonance: 0, mode: 'high' })).toBeGreaterThan(-0.5)
    expect(levelAt(100, { cutoff: 1000, resonance: 0, mode: 'high' })).toBeLessThan(-70)
    expect(levelAt(1000, { cutoff: 1000, resonance: 0, mode: 'band' })).toBeCloseTo(0, 1)
  })
  it('rounds loud sounds off', () => {
    const peak = (level: number): number =>
      hear(
        patchOf(
          [
            ['o', 'oscillator', { tracking: false, frequency: 100, level }],
            ['l', 'ladder', { cutoff: 8000, resonance: 0, drive: 18 }],
          ],
          ['o.sine > l.in'],
        ),
        0.5,
        { taps: ['l.out'] },
      )
        .tap('l.out')
        .reduce((most, x) => Math.max(most, Math.abs(x)), 0)
    expect(peak(0.01)).toBeCloseTo(0.0794, 2)
    expect(peak(1)).toBeLessThan(2.01)
  })
})
