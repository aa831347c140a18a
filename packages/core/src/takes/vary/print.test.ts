/** Prints of sounds, and how far they are from each other. */
import { describe, expect, it } from 'vitest'
import { pink, sine } from '../../testing/effects.ts'
import { BANDS, distanceOf, printOf } from './print.ts'

const RATE = 48000

describe('a print', () => {
  it('of the same is no distance away, of half the level six decibels, of another pitch far', () => {
    const at = (channel: Float32Array) => printOf({ rate: RATE, channels: [channel] })
    const noise = pink(1)
    expect(at(noise)[0]).toHaveLength(BANDS)
    expect(distanceOf(at(noise), at(noise))).toBe(0)
    expect(distanceOf(at(noise), at(noise.map((x) => x / 2)))).toBeCloseTo(6.02, 1)
    expect(distanceOf(at(sine(300, 1)), at(sine(900, 1)))).toBeGreaterThan(15)
    expect(distanceOf(at(sine(300, 1)), at(sine(300, 2)))).toBeGreaterThan(10)
    expect(distanceOf(at(new Float32Array(RATE)), at(new Float32Array(RATE)))).toBe(0)
  })
  it('puts a tone where it is: a sine at full scale has 0 dB in one band of forty', () => {
    const [, column] = printOf({ rate: RATE, channels: [sine(1000, 1).map((x) => x / 0.5)] })
    const top = Math.max(...column!)
    expect(top).toBeGreaterThan(-1.5)
    expect(top).toBeLessThan(7)
    expect(column!.filter((level) => level > -40).length).toBeLessThan(4)
  })
})
