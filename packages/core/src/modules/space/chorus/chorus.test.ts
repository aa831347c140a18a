import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { click, RATE, sine, through } from '../../../testing/effects.ts'
import { centsBetween, frequencyOf, largestStep, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('chorus', {
  inputs: 'in reset',
  outputs: 'out',
  params: 'time depth rate sync feedback copies spread mix per',
})

describe('chorus', () => {
  it.each([0.31, 0.8, 2.27, 5, 12])('without motion it is a body tuned to 1 / time: %d ms', (time) => {
    for (const copies of [1, 3]) {
      const [left] = through('chorus', { time, depth: 0, feedback: 0.99, mix: 1, copies }, click(2))()
      const hz = 1000 / time
      expect(Math.abs(centsBetween(frequencyOf(left!, hz, RATE, 2000, 40000), hz))).toBeLessThan(2)
    }
  })

  it('holds back each copy by its time: a click comes once for each place on the wave', () => {
    const [left, right] = through('chorus', { time: 20, depth: 0, mix: 1, copies: 2 }, click(0.1))()
    for (const side of [left!, right!]) {
      expect(side[960]).toBeCloseTo(Math.sqrt(1.5), 4)
      expect(rms(side, 0, 955)).toBe(0)
      expect(rms(side, 966)).toBe(0)
    }
  })

  it('lets copies come and go without a click', () => {
    const patch = patchOf(
      [
        ['i', 'input'],
        ['s', 'lfo', { shape: 'square', rate: 5 }],
        ['c', 'chorus', { copies: 3, mix: 1, depth: 0.2 }],
      ],
      ['i.out > c.in', 's.out > c.copies * 2'],
    )
    const sound = sine(200, 1)
    const out = hear(patch, 1, { input: { rate: RATE, channels: [sound, sound] }, taps: ['c.out'] }).tap(
      'c.out',
    )
    // A sine of 200 Hz at the summed level moves so far in a sample.
    expect(largestStep(out, 2000)).toBeLessThan(1.6 * 0.5 * ((2 * Math.PI * 200) / RATE) + 0.002)
  })

  it('starts its motion over at a reset, and is on time with the transport', () => {
    const patch = patchOf(
      [
        ['i', 'input'],
        ['b', 'lfo', { shape: 'square', rate: 2 }],
        ['c', 'chorus', { rate: 1.37, depth: 0.8, mix: 1, spread: 0 }],
      ],
      ['i.out > c.in', 'b.out > c.reset'],
    )
    const sound = sine(300, 2)
    const out = hear(patch, 2, { input: { rate: RATE, channels: [sound, sound] }, taps: ['c.out'] }).tap(
      'c.out',
    )
    // 300 Hz has whole periods between two resets: both stretches are the same.
    let apart = 0
    for (let n = 0; n < 20000; n += 1) apart = Math.max(apart, Math.abs(out[26000 + n]! - out[50000 + n]!))
    expect(apart).toBeLessThan(1e-3)
  })
})
