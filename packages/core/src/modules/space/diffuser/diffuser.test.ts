import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { click, RATE, sine, through } from '../../../testing/effects.ts'
import { db, largest, largestStep, magnitudeAt } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'
import { stageRatio, UNRELATED } from './ratios.ts'

promises('diffuser', {
  inputs: 'in',
  outputs: `out ${Array.from({ length: 16 }, (_, n) => `stage${n + 1}`).join(' ')}`,
  params: 'stages time spread gain ratio nested input wet dryPan wetPan mix per',
})

const HZ = [30, 80, 200, 510, 1000, 2300, 5200, 11000, 19000]

/** The textbook chain: v = x − g r, y = r + g v, r = v delayed; each stage after the other. */
const chain = (x: Float32Array, delays: readonly number[], gain: number): Float64Array => {
  let row = Float64Array.from(x)
  for (const delay of delays) {
    const v = new Float64Array(row.length),
      y = new Float64Array(row.length)
    for (let n = 0; n < row.length; n += 1) {
      const r = n >= delay ? v[n - delay]! : 0
      v[n] = row[n]! - gain * r
      y[n] = r + gain * v[n]!
    }
    row = y
  }
  return row
}

/** Share of samples beyond one standard deviation in a window of 20 ms, over what noise has: 1 is noise. */
const density = (x: ArrayLike<number>, at: number): number => {
  const size = 960
  let sum = 0
  for (let n = 0; n < size; n += 1) sum += x[at + n]! ** 2
  const deviation = Math.sqrt(sum / size)
  let beyond = 0
  for (let n = 0; n < size; n += 1) if (Math.abs(x[at + n]!) > deviation) beyond += 1
  return beyond / size / 0.3173
}

describe('diffuser', () => {
  it.each([
    [1, 0, 'shared'],
    [5, 0.5, 'shared'],
    [8, 1, 'unrelated'],
    [16, 0.8, 'unrelated'],
  ] as const)(
    'of %d stages, spread %d, %s is the textbook chain, sample by sample, and flat',
    (stages, spread, ratio) => {
      const time = 7.03
      const [left, right] = through('diffuser', { stages, spread, ratio, time, gain: 0.6 }, click(3))()
      const delays = Array.from({ length: stages }, (_, n) =>
        Math.round(time * 48 * stageRatio(n, spread, ratio === 'unrelated')),
      )
      const wanted = chain(click(3), delays, 0.6)
      let apart = 0
      for (let n = 0; n < wanted.length; n += 1) apart = Math.max(apart, Math.abs(left![n]! - wanted[n]!))
      expect(apart).toBeLessThan(2e-6)
      expect(left).toEqual(right)
      for (const hz of HZ) expect(Math.abs(db(magnitudeAt(left!, hz))), `${hz} Hz`).toBeLessThan(0.01)
    },
  )

  it('is flat nested as well, to any depth', () => {
    for (const stages of [1, 2, 3, 6]) {
      const [left] = through('diffuser', { stages, nested: true, time: 5, gain: 0.5 }, click(3))()
      for (const hz of HZ)
        expect(Math.abs(db(magnitudeAt(left!, hz))), `${stages} at ${hz} Hz`).toBeLessThan(0.01)
    }
  })

  it('has echoes that get denser with every stage', () => {
    const of = (stages: number): number =>
      density(through('diffuser', { stages, time: 20, spread: 1, ratio: 'unrelated' }, click(1))()[0]!, 3000)
    const found = [2, 4, 8, 16].map((stages) => Math.min(1, of(stages)))
    expect([...found].sort((a, b) => a - b)).toEqual(found)
    expect(found[0]).toBeLessThan(0.3)
    expect(found[3]).toBeGreaterThan(0.8)
  })

  it('gives every stage out, and no stage at all passes what comes in', () => {
    const ports = ['out', 'stage1', 'stage3', 'stage5']
    const heard = through('diffuser', { stages: 3, time: 4 }, click(0.5), ports)
    expect(heard('stage3')[0]).toEqual(heard('out')[0])
    expect(largest(heard('stage1')[0]!)).toBeGreaterThan(0.01)
    expect(largest(heard('stage5')[0]!)).toBe(0)
    expect(through('diffuser', { stages: 0 }, click(0.1))()[0]).toEqual(click(0.1))
  })

  it('puts the direct sound on one side and the cloud on the other', () => {
    const [left, right] = through('diffuser', { dryPan: -1, wetPan: 1, mix: 0.5, stages: 4 }, click(0.5))()
    expect(left!.subarray(1).every((x) => x === 0)).toBe(true)
    expect(left![0]).toBe(0.5)
    expect(right!.some((x, n) => n > 100 && Math.abs(x) > 0.01)).toBe(true)
  })

  it('glides to another time and fades to other stages without a click', () => {
    for (const nested of [false, true]) {
      const patch = patchOf(
        [
          ['i', 'input'],
          ['s', 'lfo', { shape: 'square', rate: 4 }],
          ['d', 'diffuser', { stages: 6, time: 10, gain: 0.3, nested }],
        ],
        ['i.out > d.in', 's.out > d.stages * 2', 's.out > d.time * 0.02'],
      )
      const sound = sine(200, 1)
      const out = hear(patch, 1, { input: { rate: RATE, channels: [sound, sound] }, taps: ['d.out'] }).tap(
        'd.out',
      )
      expect(largestStep(out, 6000), String(nested)).toBeLessThan(3 * 0.5 * ((2 * Math.PI * 200) / RATE))
    }
  })

  it('has lengths no two of which have a common measure', () => {
    for (const a of UNRELATED)
      for (const b of UNRELATED) {
        if (a === b) continue
        for (let n = 1; n < 12; n += 1)
          expect(Math.abs((a / b) * n - Math.round((a / b) * n))).toBeGreaterThan(1e-4)
      }
  })
})
