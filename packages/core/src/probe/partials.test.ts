import { expect, it } from 'vitest'
import { RATE, signal } from '../testing/probe.ts'
import { partialsFrom } from './partials.ts'

const sum = (parts: readonly (readonly [hz: number, level: number])[]): Float32Array =>
  signal(1, (t) => parts.reduce((all, [hz, level]) => all + level * Math.sin(2 * Math.PI * hz * t), 0))
const from = (x: Float32Array, count = 16) => partialsFrom({ rate: RATE, channels: [x] }, count)

it('levels of harmonics, missing ones as none', () => {
  const { levels, ratios, isHarmonic } = from(
    sum([
      [220, 0.4],
      [440, 0.2],
      [880, 0.1],
    ]),
    6,
  )!
  expect(isHarmonic).toBe(true)
  expect(levels.map((level) => Math.round(100 * level))).toEqual([100, 50, 0, 25, 0, 0])
  expect(ratios.map((ratio) => Math.round(100 * ratio) / 100)).toEqual([1, 2, 3, 4, 5, 6])
})

it('stretched ones keep where they lie', () => {
  const stretched = [1, 2.01, 3.03, 4.06].map((ratio, n): [number, number] => [200 * ratio, 0.3 / (n + 1)])
  const found = from(sum(stretched), 4)!
  found.ratios.forEach((ratio, n) => {
    expect(Math.abs(ratio / found.ratios[0]! - stretched[n]![0] / 200)).toBeLessThan(0.02)
  })
})

it('of a body that is not harmonic its peaks, from the lowest on; of silence nothing', () => {
  const bar = [1, 2.756, 5.404, 8.933].map((ratio, n): [number, number] => [310 * ratio, 0.4 / (n + 1)])
  const found = from(sum(bar))!
  expect(found.isHarmonic).toBe(false)
  found.ratios.slice(0, 4).forEach((ratio, n) => {
    expect(ratio).toBeCloseTo(bar[n]![0] / 310, 2)
  })
  expect(found.levels[0]).toBeCloseTo(1, 1)
  expect(from(new Float32Array(RATE))).toBeUndefined()
})
