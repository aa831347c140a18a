import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'
import { largest } from '../testing/measure.ts'
import { render } from '../render/render.ts'
import { Engine } from '../engine/engine.ts'
import { testKernels } from '../testing/kernels.ts'

const RATE = 48000
const DC_KEEP = 1 - (2 * Math.PI * 2) / RATE

const through = (x: Float32Array, level = 0): Float32Array =>
  hear(
    patchOf(
      [
        ['i', 'input'],
        ['out', 'output', { level }],
      ],
      ['i.out > out.in'],
    ),
    x.length / RATE,
    { input: { rate: RATE, channels: [x, x] } },
  ).out

/** Peak between samples: band-limited interpolation by 8 with a long windowed sinc. */
const truePeak = (x: Float32Array): number => {
  let peak = 0
  for (let i = 32; i < x.length - 32; i += 1) {
    for (let k = 0; k < 8; k += 1) {
      let y = 0
      for (let n = -31; n <= 32; n += 1) {
        const t = n - k / 8
        y +=
          x[i + n]! *
          (t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t)) *
          (0.5 + 0.5 * Math.cos((Math.PI * t) / 33))
      }
      peak = Math.max(peak, Math.abs(y))
    }
  }
  return peak
}

describe('ear guard', () => {
  it('leaves what is under the ceiling alone but for its DC blocker, in time', () => {
    for (const size of [0.1, 0.39, 0.41, 0.6, 0.85]) {
      const x = Float32Array.from({ length: 4800 }, (_, i) => size * Math.sin((2 * Math.PI * 440 * i) / RATE))
      const y = through(x)
      let before = 0,
        state = 0
      for (let i = 0; i < 4800; i += 1) {
        state = x[i]! - before + DC_KEEP * state
        before = x[i]!
        expect(y[i]!).toBeCloseTo(state, 6)
      }
    }
  })

  it('holds the true peak at −1 dBFS however loud it gets', () => {
    const x = Float32Array.from(
      { length: 9600 },
      (_, i) =>
        (i > 2000 && i < 6000 ? 6 : 0.3) *
        Math.sin((2 * Math.PI * 11025.7 * i) / RATE) *
        (i % 480 < 240 ? 1 : 0.6),
    )
    expect(truePeak(through(x))).toBeLessThan(10 ** (-0.9 / 20))
    expect(largest(through(x))).toBeGreaterThan(0.5)
  })

  it('removes DC and lets silence be exactly silent', () => {
    const x = new Float32Array(96000).fill(0.5)
    const y = through(x)
    expect(Math.abs(y[95999]!)).toBeLessThan(1e-3)
    expect(largest(through(new Float32Array(4800)))).toBe(0)
  })

  it('stops what stays far too loud, and NaN never reaches the output', () => {
    const engine = new Engine(testKernels())
    engine.apply(
      patchOf(
        [
          ['i', 'input'],
          ['out', 'output', { level: 12 }],
        ],
        ['i.out > out.in * 100'],
      ),
    )
    const left = new Float32Array(128),
      right = new Float32Array(128),
      loud = new Float32Array(128).fill(0).map((_, i) => (i % 2 ? 1 : -1))
    for (let n = 0; n < 50; n += 1)
      engine.runtime.process(left, right, 0, 128, { left: loud, right: loud, offset: 0 })
    expect(engine.runtime.isStopped()).toBe(true)
    expect(largest(left)).toBe(0)
    const broken = new Float32Array(128).fill(NaN)
    const fresh = new Engine(testKernels())
    fresh.apply(
      patchOf(
        [
          ['i', 'input'],
          ['out', 'output'],
        ],
        ['i.out > out.in'],
      ),
    )
    fresh.runtime.process(left, right, 0, 128, { left: broken, right: broken, offset: 0 })
    fresh.runtime.process(left, right, 0, 128)
    expect(left.every(Number.isFinite)).toBe(true)
  })

  it.each(['sine', 'saw', 'pulse'])(
    'stops a %s that stays above +24 dB, and nothing that does not',
    (wave) => {
      const rendered = (db: number, seconds: number) => {
        const result = render(
          testKernels(),
          patchOf(
            [
              ['n', 'notes'],
              ['o', 'oscillator', { frequency: 60, tracking: false }],
              ['a', 'amplifier'],
              ['out', 'output', { level: 0 }],
            ],
            [`o.${wave} > a.in`, 'n.gate > a.cv', `a.out > out.in * ${10 ** (db / 20)}`],
          ),
          {
            seconds: 1,
            events: [
              { t: 0.1, type: 'on', note: 60, id: 1 },
              { t: 0.1 + seconds, type: 'off', note: 60, id: 1 },
            ],
          },
        )
        if (!result.ok) throw new Error(result.faults[0]!.message)
        return { ...result.value, late: largest(result.value.sound.channels[0]!, 12000, 33600) }
      }
      const loud = rendered(26, 0.7)
      expect(loud.stopped).toBe(true)
      expect(loud.late).toBe(0)
      // Not loud enough, or not for long: it plays on, held at the ceiling, and the report says by how much.
      const held = rendered(20, 0.7)
      expect(held.stopped).toBe(false)
      expect(held.late).toBeGreaterThan(0.5)
      expect(held.limitedDb).toBeGreaterThan(18)
      expect(held.limitedDb).toBeLessThan(26)
      expect(held.limited / 48000).toBeGreaterThan(0.6)
      expect(rendered(40, 0.03).stopped).toBe(false)
      expect(rendered(-12, 0.7).limitedDb).toBe(0)
    },
  )
})
