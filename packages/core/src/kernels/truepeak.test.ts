/** What leaves the guard and the limiter, between samples as well, by filters of several lengths. */
import { describe, expect, it } from 'vitest'
import { Engine } from '../engine/engine.ts'
import type { Patch } from '../patch/types.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { Dice } from '../units/dice.ts'
import { testKernels } from '../testing/kernels.ts'
import { ragged } from '../testing/surround.ts'
import { truePeakDb } from '../testing/truepeak.ts'

/** Decibels true peak by short, middle and long filters. */
const truePeaks = (x: Float32Array, end = x.length): number[] =>
  [12, 24, 48].map((taps) => truePeakDb(x, taps, end))

const LENGTH = 24000
const made = (at: (i: number, roll: () => number) => number): Float32Array => {
  const dice = new Dice(7),
    roll = (): number => dice.unit()
  return Float32Array.from({ length: LENGTH }, (_, i) => at(i, roll))
}
const normal = (roll: () => number): number =>
  Math.sqrt(-2 * Math.log(roll() + 1e-12)) * Math.cos(2 * Math.PI * roll())

/** How near to the ceiling the loudest of the three must come. */
const SOUNDS: readonly (readonly [string, Float32Array])[] = [
  ['loud noise', made((_, roll) => 3 * normal(roll))],
  ['very loud noise', made((_, roll) => 12 * normal(roll))],
  ['noise just above', made((_, roll) => 0.5 * normal(roll))],
  ['a square wave at the Nyquist frequency', made((i) => (i % 2 ? 1.5 : -1.5))],
  ['the same in bursts of 50', made((i) => (i % 2 ? 1 : -1) * (i % 100 < 50 ? 1.2 : -1.2))],
  ['random signs', made((_, roll) => (roll() < 0.5 ? -1 : 1))],
  ['a square wave of 440 Hz', made((i) => ((i * 440) % 48000 < 24000 ? 1.5 : -1.5))],
  ['bursts of a high sine', made((i) => (i % 4800 < 2400 ? 3 : 0.3) * Math.sin(1.4437 * i))],
  ['single clicks', made((i) => (i % 3000 === 1500 ? 20 : 0))],
]

const throughOut = (): Patch =>
  patchOf(
    [
      ['i', 'input'],
      ['out', 'output', { level: 0 }],
    ],
    ['i.out > out.in'],
  )

describe('true peak', () => {
  it.each(SOUNDS)('%s leaves the guard at −1 dBTP', (_name, x) => {
    const heard = hear(throughOut(), LENGTH / 48000, { input: { rate: 48000, channels: [x, x] } })
    const most = Math.max(...truePeaks(heard.out))
    expect(most).toBeLessThan(-0.95)
    expect(most).toBeGreaterThan(-1.1)
  })

  it.each(SOUNDS)('%s leaves the limiter at its ceiling', (_name, x) => {
    const heard = hear(
      patchOf(
        [
          ['i', 'input'],
          ['l', 'limiter', { ceiling: -6 }],
        ],
        ['i.out > l.in'],
      ),
      LENGTH / 48000,
      { input: { rate: 48000, channels: [x, x] }, taps: ['l.out'] },
    )
    // A tap ends before what the limiter still holds: its cut is none of the limiter's.
    const most = Math.max(...truePeaks(heard.tap('l.out'), LENGTH - 24))
    expect(most).toBeLessThan(-5.95)
    expect(most).toBeGreaterThan(-6.1)
  })

  it.each([8000, 44100, 96000])('is held at %i Hz as well', (rate) => {
    const x = made((i, roll) => (i % 6000 < 3000 ? 0.3 : 3) * (roll() - 0.5))
    const { out, right } = hear(throughOut(), LENGTH / rate, {
      rate,
      input: { rate, channels: [x, x] },
    })
    expect(Math.max(...truePeaks(out))).toBeLessThan(-0.95)
    expect(out).toEqual(right)
  })

  it('does not depend on how time is cut: limiting, stopping and what is not finite', () => {
    const x = made((i, roll) => (i % 6000 < 2000 ? 0.2 : i > 15000 ? 40 : 3) * (roll() - 0.5))
    for (const at of [700, 4000, 9000]) x[at] = at === 4000 ? NaN : Infinity
    const through = (lengths: (n: number) => number): number[] => {
      const engine = new Engine(testKernels())
      engine.apply(throughOut())
      const out: number[] = [],
        left = new Float32Array(128),
        right = new Float32Array(128)
      for (let done = 0, n = 0; done < LENGTH; n += 1) {
        const length = Math.min(lengths(n), LENGTH - done)
        engine.runtime.process(left, right, 0, length, { left: x, right: x, offset: done })
        out.push(...left.subarray(0, length))
        done += length
      }
      return out
    }
    const whole = through(() => 128)
    expect(whole.every(Number.isFinite)).toBe(true)
    expect(through(ragged(3))).toEqual(whole)
    expect(through(() => 1)).toEqual(whole)
  })
})
