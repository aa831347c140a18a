/** What leaves the guard and the limiter, between samples as well, by filters of several lengths. */
import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'

/** Windowed sincs (raised cosine) at 1/4, 1/2 and 3/4 of a sample, `taps` each. */
const filters = (taps: number): number[][] =>
  [0.25, 0.5, 0.75].map((place) => {
    const row = Array.from({ length: taps }, (_, i) => {
      const t = i - (taps / 2 - 1) - place
      return (
        (Math.sin(Math.PI * t) / (Math.PI * t)) * (0.5 + 0.5 * Math.cos((Math.PI * t) / (taps / 2 + 0.5)))
      )
    })
    const sum = row.reduce((total, weight) => total + weight, 0)
    return row.map((weight) => weight / sum)
  })
const LENGTHS = [12, 24, 48].map((taps) => ({ taps, rows: filters(taps) }))

/** Decibels true peak by each length; what is cut off at `end` is looked at, but not its edge. */
const truePeaks = (x: Float32Array, end = x.length): number[] =>
  LENGTHS.map(({ taps, rows }) => {
    let most = 0
    for (let i = 0; i < end; i += 1) {
      most = Math.max(most, Math.abs(x[i]!))
      for (const row of rows) {
        let y = 0
        for (let k = 0; k < taps; k += 1) y += row[k]! * (x[i + k - taps / 2 + 1] ?? 0)
        most = Math.max(most, Math.abs(y))
      }
    }
    return 20 * Math.log10(most)
  })

const random = (seed: number): (() => number) => {
  let state = seed
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 4294967296
  }
}
const LENGTH = 24000
const made = (at: (i: number, roll: () => number) => number): Float32Array => {
  const roll = random(7)
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

describe('true peak', () => {
  it.each(SOUNDS)('%s leaves the guard at −1 dBTP', (_name, x) => {
    const heard = hear(
      patchOf(
        [
          ['i', 'input'],
          ['out', 'output', { level: 0 }],
        ],
        ['i.out > out.in'],
      ),
      LENGTH / 48000,
      { input: { rate: 48000, channels: [x, x] } },
    )
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

  it('does not depend on how time is cut, and lets what is quiet through untouched', () => {
    const x = made((i, roll) => (i % 6000 < 3000 ? 0.3 : 3) * (roll() - 0.5))
    const heard = (rate: number, channels: Float32Array[]) =>
      hear(
        patchOf(
          [
            ['i', 'input'],
            ['out', 'output', { level: 0 }],
          ],
          ['i.out > out.in'],
        ),
        LENGTH / rate,
        { rate, input: { rate, channels } },
      )
    for (const rate of [8000, 44100, 96000]) {
      const { out, right } = heard(rate, [x, x])
      expect(Math.max(...truePeaks(out))).toBeLessThan(-0.95)
      expect(out).toEqual(right)
    }
  })
})
