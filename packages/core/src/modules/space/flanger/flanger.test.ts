import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../../../catalogue.ts'
import { click, pink, RATE, through } from '../../../testing/effects.ts'
import { db, magnitudeAt, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('flanger', {
  inputs: 'in reset',
  outputs: 'out',
  params: 'time depth rate sync spread feedback zero mix per',
})

describe('flanger', () => {
  it('cuts notches at odd multiples of half of 1 / time, and feedback sharpens its peaks', () => {
    const [plain] = through('flanger', { time: 2, depth: 0 }, click(1))()
    for (const n of [1, 3, 5]) expect(db(magnitudeAt(plain!, n * 250))).toBeLessThan(-60)
    for (const n of [1, 2, 3]) expect(magnitudeAt(plain!, n * 500)).toBeCloseTo(1, 3)
    const [fed] = through('flanger', { time: 2, depth: 0, feedback: 0.8, mix: 1 }, click(1))()
    expect(magnitudeAt(fed!, 500)).toBeCloseTo(1 / (1 - 0.8), 2)
    expect(magnitudeAt(fed!, 750)).toBeCloseTo(1 / (1 + 0.8), 2)
  })

  it('through zero the direct sound is late by the time, bit for bit, and the copy passes it', () => {
    const sound = pink(1.2)
    const { latency } = CATALOGUE.get('flanger')!.description
    const settings = { zero: true, time: 3, depth: 1, rate: 1, spread: 0 }
    const late = latency!({
      choice: (name) => String(settings[name as 'zero']),
      number: (name) => Number(settings[name as 'time']),
      sampleRate: RATE,
    })
    expect(late).toBe(144)
    const [dry] = through('flanger', { ...settings, mix: 0 }, sound)()
    expect(dry!.subarray(late)).toEqual(sound.subarray(0, sound.length - late))
    // Half a movement after its start the wave is at zero: copy and direct sound are one there, and cancel as halves.
    const [wet] = through('flanger', { ...settings, mix: 1 }, sound)()
    const gap = (at: number): number =>
      rms(Float32Array.from({ length: 8 }, (_, n) => wet![at + n]! - dry![at + n]!)) /
      rms(dry!, at - 200, at + 200)
    expect(gap(24000 - 4)).toBeLessThan(0.05)
    expect(gap(12000)).toBeGreaterThan(0.3)
  })
})
