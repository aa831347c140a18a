import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { pink, RATE, sine } from '../../../testing/effects.ts'
import { db, hzBetween, largest, largestStep, rms, worstAlias } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('player', {
  inputs: 'trigger reset slice',
  outputs: 'out start done',
  params: 'asset loop speed from to slices sync beats level',
})

type Params = Record<string, number | string | boolean>
const FADE = 48

/** What a player gives for a recording. */
const played = (
  channels: readonly Float32Array[],
  params: Params,
  seconds: number,
  more: { modules?: Parameters<typeof patchOf>[0]; cables?: string[]; rate?: number; tempo?: number } = {},
) => {
  const patch = patchOf(
    [...(more.modules ?? []), ['p', 'player', { asset: 'take', ...params }], ['o', 'output']],
    ['p.out > o.in', ...(more.cables ?? [])],
  )
  return hear(more.tempo === undefined ? patch : { ...patch, tempo: more.tempo }, seconds, {
    assets: new Map([['take', { rate: more.rate ?? RATE, channels }]]),
    taps: ['p.out', 'p.start', 'p.done'],
  })
}
/** Frames in which a trigger rises. */
const risesOf = (x: Float32Array): number[] =>
  [...x].flatMap((y, n) => (y > 0.5 && !((x[n - 1] ?? 0) > 0.5) ? [n] : []))

describe('player', () => {
  const take = pink(0.5),
    other = pink(0.5, 3)

  it('plays a recording from sample 0, bit for bit behind its first millisecond, and goes round without a seam', () => {
    const heard = played([take, other], {}, 1.2)
    const [left, right] = heard.lanes('p.out')
    const n = take.length
    expect(left!.subarray(FADE, n)).toEqual(take.subarray(FADE))
    expect(right!.subarray(FADE, n)).toEqual(other.subarray(FADE))
    expect(left!.subarray(n, 2 * n)).toEqual(take)
    expect(risesOf(heard.tap('p.start'))).toEqual([0, n, 2 * n])
    expect(risesOf(heard.tap('p.done'))).toEqual([n, 2 * n])
  })

  it('plays once where it does not loop, and backwards', () => {
    const once = played([take], { loop: false }, 0.8)
    expect(
      once
        .tap('p.out')
        .subarray(take.length + FADE)
        .every((x) => x === 0),
    ).toBe(true)
    expect(risesOf(once.tap('p.done'))).toEqual([take.length])
    const back = played([take], { speed: -1 }, 0.5).tap('p.out')
    expect(back.subarray(FADE)).toEqual(take.slice().reverse().subarray(FADE))
  })

  it('gives a mono recording to both sides, and waits where something is to trigger it', () => {
    const heard = played([take], {}, 0.4, {
      modules: [['n', 'notes']],
      cables: ['n.trigger > p.trigger'],
    })
    expect(heard.tap('p.out').every((x) => x === 0)).toBe(true)
    const [left, right] = played([take], {}, 0.3).lanes('p.out')
    expect(left).toEqual(right)
  })

  it('plays slices by what stands at slice when it is triggered', () => {
    const heard = played([take], { slices: 4, loop: false }, 0.4, {
      modules: [
        ['c', 'clock', { source: 'own', tempo: 300 }],
        ['v', 'value', { value: 0.6 }],
      ],
      cables: ['c.beat > p.trigger', 'v.out > p.slice'],
    })
    const at = risesOf(heard.tap('p.start'))[0]!,
      slice = Math.floor(take.length / 4)
    const out = heard.tap('p.out')
    expect(out.subarray(at + FADE, at + slice)).toEqual(take.subarray(2 * slice + FADE, 3 * slice))
    expect(risesOf(heard.tap('p.done'))[0]).toBe(at + slice)
  })

  it('keeps to the tempo with sync, also while it changes', () => {
    // Four beats of 0.5 s: half as fast at 60.
    const loop = pink(2)
    const length = (tempo: number): number[] =>
      risesOf(played([loop], { sync: 'tempo', beats: 4 }, 4.5, { tempo }).tap('p.start'))
    expect(length(120)[1]).toBe(2 * RATE)
    expect(Math.abs(length(60)[1]! - 4 * RATE)).toBeLessThanOrEqual(1)
    expect(Math.abs(length(180)[1]! - (4 * RATE) / 3)).toBeLessThanOrEqual(1)
    // A length of two seconds is taken for four beats of 120.
    expect(risesOf(played([loop], { sync: 'tempo', beats: 0 }, 2.5, { tempo: 120 }).tap('p.start'))[1]).toBe(
      2 * RATE,
    )
  })

  it('reads between samples without folding, at its level and in tune', () => {
    for (const speed of [0.125, 0.7937, 1.4142, 2, 3.9]) {
      const hz = 3100
      const heard = played([sine(hz, 6, 0.5)], { speed }, 2.2).tap('p.out')
      expect(Math.abs(hzBetween(heard, 0.1, 1.5) / (hz * speed) - 1), `${speed}`).toBeLessThan(1e-5)
      if (hz * speed < 11000)
        expect(Math.abs(db(rms(heard, 4800, 72000) / (0.5 * Math.SQRT1_2))), `${speed}`).toBeLessThan(0.1)
      expect(worstAlias(heard, hz * speed), `${speed}`).toBeLessThan(-90)
    }
    // What would lie above half the rate is not there.
    for (const [hz, speed] of [
      [17000, 2],
      [18000, 4],
      [9000, 4],
    ] as const) {
      const heard = played([sine(hz, 6, 0.5)], { speed }, 1.5).tap('p.out')
      expect(db(rms(heard, 4800, 60000)), `${hz} × ${speed}`).toBeLessThan(-90)
    }
  })

  it('brings recordings of any rate to the engine', () => {
    const x = Float32Array.from({ length: 44100 }, (_, n) => 0.5 * Math.sin((2 * Math.PI * 1000 * n) / 44100))
    const heard = played([x], {}, 0.9, { rate: 44100 }).tap('p.out')
    expect(Math.abs(hzBetween(heard, 0.05, 0.85) / 1000 - 1)).toBeLessThan(1e-6)
  })

  it('makes no step of its own where it jumps, goes round part of it, or is swept', () => {
    const wave = sine(200, 3, 0.5),
      own = largestStep(wave)
    for (const params of [
      { from: 0.213, to: 0.377 },
      { from: 0.4, to: 0.1, speed: -0.7 },
    ] as Params[])
      expect(largestStep(played([wave], params, 2).tap('p.out'), FADE)).toBeLessThan(own + 0.5 / FADE + 0.001)
    const swept = played([wave], { speed: 1 }, 2, {
      modules: [['s', 'lfo', { rate: 3 }]],
      cables: ['s.out > p.speed * 2'],
    }).tap('p.out')
    expect(largestStep(swept, FADE)).toBeLessThan(3.1 * own)
  })

  it.each([
    ['that is not there', undefined],
    ['that is empty', { rate: RATE, channels: [new Float32Array(0)] }],
    ['without channels', { rate: RATE, channels: [] }],
    ['at a rate of 0', { rate: 0, channels: [pink(0.1)] }],
  ])('is silent with a recording %s, and everything else plays on', (_, take_) => {
    const heard = hear(
      patchOf(
        [
          ['p', 'player', { asset: 'take' }],
          ['s', 'oscillator'],
          ['o', 'output'],
        ],
        ['p.out > o.in', 's.sine > o.in'],
      ),
      0.2,
      { assets: new Map(take_ ? [['take', take_]] : []), taps: ['p.out'] },
    )
    expect(heard.tap('p.out').every((x) => x === 0)).toBe(true)
    expect(largest(heard.out)).toBeGreaterThan(0.1)
  })

  it('plays the first two of many channels, and nothing of what is not finite', () => {
    const many = Array.from({ length: 64 }, (_, n) => pink(0.1, n + 1))
    many[0]![300] = NaN
    const [left, right] = played(many, {}, 0.1).lanes('p.out')
    expect(left![300]).toBe(0)
    expect(right!.subarray(FADE)).toEqual(many[1]!.subarray(FADE))
  })
})
