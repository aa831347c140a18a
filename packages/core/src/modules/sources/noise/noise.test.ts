import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, db } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('noise', {
  inputs: '',
  outputs: 'white pink brown blue dust',
  params: 'density level per',
})

/** Level of octave bands around 125 Hz … 8 kHz, power per hertz, in dB. */
const bands = (x: Float32Array): number[] => {
  const size = 65536,
    bin = 48000 / size
  const power = new Float64Array(size / 2)
  const count = Math.floor(x.length / size)
  for (let n = 0; n < count; n += 1)
    amplitudes(x, size, n * size).forEach((a, i) => {
      power[i]! += a * a
    })
  return [62.5, 125, 250, 500, 1000, 2000, 4000, 8000, 16000].map((centre) => {
    const from = Math.ceil(centre / Math.SQRT2 / bin),
      to = Math.floor((centre * Math.SQRT2) / bin)
    let sum = 0
    for (let i = from; i < to; i += 1) sum += power[i]!
    return db(Math.sqrt(sum / (to - from) / count))
  })
}

const slope = (levels: number[]): number => {
  const n = levels.length,
    mean = (n - 1) / 2,
    average = levels.reduce((a, b) => a + b) / n
  return (
    levels.reduce((sum, y, x) => sum + (x - mean) * (y - average), 0) /
    levels.reduce((sum, _y, x) => sum + (x - mean) ** 2, 0)
  )
}

describe('noise', () => {
  const ports = ['white', 'pink', 'brown', 'blue', 'dust'].map((port) => `n.${port}`)
  const heard = hear(patchOf([['n', 'noise', { density: 50 }]], []), 120, { taps: ports })

  it('is white within 0.3 dB', () => {
    const levels = bands(heard.tap('n.white'))
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(0.6)
    const x = heard.tap('n.white')
    expect(Math.abs(x.reduce((a, b) => a + b) / x.length)).toBeLessThan(1e-3)
  })
  it.each([
    ['pink', -3.01, 0.12],
    ['brown', -6.02, 0.2],
    ['blue', 3.01, 0.12],
  ])('falls or rises as it should: %s %f dB an octave', (port, expected, each) => {
    const levels = bands(heard.tap(`n.${port}`))
    expect(Math.abs(slope(levels) - expected)).toBeLessThan(0.1)
    // The lowest octave holds few independent values; from then on every step counts.
    levels.slice(2).forEach((level, i) => {
      expect(Math.abs(level - levels[i + 1]! - expected)).toBeLessThan(each)
    })
  })
  it('drops as many clicks as its density says', () => {
    const clicks = heard.tap('n.dust').filter((x) => x !== 0).length
    expect(clicks).toBeGreaterThan(50 * 120 * 0.94)
    expect(clicks).toBeLessThan(50 * 120 * 1.06)
  })
  it('is the same again with the same seed and another with another', () => {
    const take = (seed: number): Float32Array =>
      hear(patchOf([['n', 'noise']], [], { seed }), 0.1, { taps: ['n.white'] }).tap('n.white')
    expect(take(3)).toEqual(take(3))
    expect(take(3)).not.toEqual(take(4))
  })
})
