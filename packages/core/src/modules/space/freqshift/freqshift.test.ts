import { describe, expect, it } from 'vitest'
import { amplitudes, db, largestStep } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'
import { RATE, sine, through } from '../../../testing/effects.ts'
import { hear, patchOf } from '../../../testing/bench.ts'
import { hilbertPair } from './hilbert.ts'

promises('freqshift', { inputs: 'in', outputs: 'up down', params: 'shift mix per' })

const SIZE = 65536
const levelAt = (spectrum: Float64Array, hz: number): number => {
  const bin = Math.round((hz * SIZE) / RATE)
  return Math.max(...spectrum.slice(Math.max(0, bin - 5), bin + 6))
}

describe('freqshift', () => {
  it.each([60, 250, 1000, 4000, 10000])(
    'moves %d Hz up and down, and leaves an image of −80 dB',
    (wanted) => {
      // In the middle of bins, where a window reads levels as they are.
      const bin = RATE / SIZE,
        hz = bin * Math.round(wanted / bin),
        shift = 50 * bin
      const sides = through('freqshift', { shift }, sine(hz, 2.5), ['up', 'down'])
      for (const [port, sign] of [
        ['up', 1],
        ['down', -1],
      ] as const) {
        const spectrum = amplitudes(sides(port)[0]!, SIZE, 40000)
        const found = levelAt(spectrum, hz + sign * shift)
        expect(db(found / 0.5)).toBeCloseTo(0, 1)
        expect(db(levelAt(spectrum, hz - sign * shift) / found), port).toBeLessThan(-80)
        // Nothing of the sound itself is left, nor anything else that a multiplication might leave.
        expect(db(levelAt(spectrum, hz) / found), port).toBeLessThan(-80)
      }
    },
  )

  it('is a pair of chains a quarter of a cycle apart from 20 Hz up, at any rate', () => {
    const table = hilbertPair(),
      half = table.length / 2
    const turn = (from: number, w: number): number =>
      table.slice(from, from + half).reduce((sum, a) => {
        const re = Math.cos(2 * w),
          im = -Math.sin(2 * w)
        return sum + Math.atan2(-im, a - re) - Math.atan2(-a * im, 1 - a * re)
      }, 0)
    for (let hz = 25; hz < 23900; hz *= 1.1) {
      const w = (2 * Math.PI * hz) / RATE
      const apart = turn(0, w) - (turn(half, w) - w)
      expect(Math.abs(Math.cos(apart)), `${hz} Hz`).toBeLessThan(1.2e-4)
    }
  })

  it('keeps on turning where it is when the shift is moved', () => {
    const patch = patchOf(
      [
        ['o', 'oscillator', { tracking: false, frequency: 500 }],
        ['s', 'lfo', { shape: 'square', rate: 7 }],
        ['f', 'freqshift', { shift: 300 }],
      ],
      ['o.sine > f.in', 's.out > f.shift * 250'],
    )
    const up = hear(patch, 1, { taps: ['f.up'] }).tap('f.up')
    expect(largestStep(up, 4000)).toBeLessThan((2 * Math.PI * 1060) / RATE)
  })
})
