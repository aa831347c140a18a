import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { pink, RATE, sine } from '../../../testing/effects.ts'
import { db, hzBetween, largest, largestStep, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('grains', {
  inputs: 'in pitch trigger',
  outputs: 'out',
  params:
    'asset semitones jitter scan history source size density position spray pitchSpread reverse shape pan freeze level',
})

type Params = Record<string, number | string | boolean>

/** Grains of a recording. */
const cloud = (
  recording: Float32Array | readonly Float32Array[],
  params: Params,
  seconds: number,
  more: { modules?: Parameters<typeof patchOf>[0]; cables?: string[]; play?: string } = {},
) =>
  hear(
    patchOf(
      [...(more.modules ?? []), ['g', 'grains', { asset: 'take', ...params }], ['o', 'output']],
      ['g.out > o.in', ...(more.cables ?? [])],
    ),
    seconds,
    {
      assets: new Map([
        ['take', { rate: RATE, channels: recording instanceof Float32Array ? [recording] : recording }],
      ]),
      taps: ['g.out'],
      ...(more.play === undefined ? {} : { play: more.play }),
    },
  ).lanes('g.out')
/** Grains of what comes in. */
const live = (x: Float32Array, params: Params, events: { t: number; value: boolean }[] = []) =>
  hear(
    patchOf(
      [
        ['i', 'input'],
        ['g', 'grains', { source: 'input', ...params }],
        ['o', 'output'],
      ],
      ['i.out > g.in', 'g.out > o.in'],
    ),
    x.length / RATE,
    {
      input: { rate: RATE, channels: [x, x] },
      taps: ['g.out'],
      events: events.map(({ t, value }) => ({ t, type: 'param', target: 'g.freeze', value })),
    },
  ).lanes('g.out')

describe('grains', () => {
  it('put a recording together again where they are even and move along with it', () => {
    // Windows of 40 ms every 20 ms add up to one; the grain is the sound where it was taken.
    const take = pink(3)
    const [left] = cloud(take, { size: 40, density: 50, jitter: 0, scan: 1 }, 2)
    const loud = left![24000]! / take[24000]!
    const apart = left!.map((x, n) => x - loud * take[n]!)
    expect(largest(apart, 4800, 90000)).toBeLessThan(0.02)
    expect(Math.abs(db(loud))).toBeLessThan(1.5)
  })

  it('hold a place, and pitch it by the pitch input and the semitones', () => {
    const take = sine(440, 2)
    for (const [params, hz] of [
      [{ semitones: 0 }, 440],
      [{ semitones: 12 }, 880],
      [{ semitones: -7 }, 440 * 2 ** (-7 / 12)],
    ] as const) {
      // The period of the place is a whole number of the grains' distance.
      const [left] = cloud(take, { position: 0.3, size: 200, density: 10, jitter: 0, ...params }, 2)
      expect(Math.abs(hzBetween(left!, 0.5, 1.9) / hz - 1)).toBeLessThan(0.02)
    }
    const [left] = cloud(take, { size: 100, density: 40, scan: 1 }, 1.5, {
      modules: [['n', 'notes']],
      cables: ['n.pitch > g.pitch'],
      play: '72@0+2',
    })
    expect(Math.abs(hzBetween(left!, 0.3, 1.3) / 880 - 1)).toBeLessThan(0.1)
  })

  it('start at the rises of trigger, on the frame, and as often as the density says without', () => {
    const take = pink(1)
    const starts = (params: Params, more = {}): number[] => {
      const [left] = cloud(take, { size: 10, ...params }, 2, more)
      const at: number[] = []
      let quiet = 1000
      left!.forEach((x, n) => {
        if (Math.abs(x) > 1e-7) {
          if (quiet > 200) at.push(n)
          quiet = 0
        } else quiet += 1
      })
      return at
    }
    const even = starts({ density: 20, jitter: 0 })
    for (let n = 1; n < even.length; n += 1) expect(Math.abs(even[n]! - even[n - 1]! - 2400)).toBeLessThan(4)
    expect(even).toHaveLength(40)
    const uneven = starts({ density: 20, jitter: 1 })
    expect(uneven.length).toBeGreaterThan(15)
    expect(new Set(uneven.map((x, n) => Math.round((x - (uneven[n - 1] ?? 0)) / 240))).size).toBeGreaterThan(
      6,
    )
    const clocked = starts(
      { density: 100 },
      {
        modules: [['c', 'clock', { source: 'own', tempo: 300 }]],
        cables: ['c.beat > g.trigger'],
      },
    )
    for (let n = 1; n < clocked.length; n += 1)
      expect(Math.abs(clocked[n]! - clocked[n - 1]! - 9600)).toBeLessThan(4)
  })

  it('make no click: not at any shape, size, density, spray or direction', () => {
    const take = sine(300, 2, 0.5),
      own = largestStep(take)
    for (const params of [
      { shape: 1, size: 20, density: 100 },
      { shape: -1, size: 200, density: 60, reverse: 0.5 },
      { size: 2, density: 400, spray: 1, pan: 1 },
      { size: 1000, density: 64, pitchSpread: 12, spray: 0.5 },
    ]) {
      const [left] = cloud(take, params, 1.5)
      // A window of 1 ms takes a sine of a half up in 24 frames at the fastest, several at once.
      expect(largestStep(left!), JSON.stringify(params)).toBeLessThan(6 * own + 0.15)
      expect(largest(left!)).toBeGreaterThan(0.05)
    }
  })

  it('are about as loud at any density, to both sides as far as pan says', () => {
    const take = pink(4)
    const loud = (params: Params): number =>
      db(rms(cloud(take, { spray: 1, ...params }, 4)[0]!, RATE / 2) / rms(take))
    for (const density of [20, 60, 200, 400]) expect(Math.abs(loud({ density, size: 100 }))).toBeLessThan(2.5)
    const [left, right] = cloud(take, { pan: 0, spray: 1 }, 1)
    expect(left).toEqual(right)
    const [wideLeft, wideRight] = cloud(take, { pan: 1, spray: 1, density: 100 }, 2)
    let both = 0
    wideLeft!.forEach((x, n) => {
      both += x * wideRight![n]!
    })
    expect(both / wideLeft!.length / (rms(wideLeft!) * rms(wideRight!))).toBeLessThan(0.9)
  })

  it('take what comes in: at once at position 0, later at others, and for ever while frozen', () => {
    const x = pink(4).map((y, n) => (n > RATE / 2 && n < RATE ? y : 0))
    const at = (params: Params, from: number, to: number): number =>
      rms(
        live(x, { size: 50, density: 60, history: 2, ...params })[0]!,
        Math.round(from * RATE),
        Math.round(to * RATE),
      )
    expect(at({ position: 0 }, 0.6, 1)).toBeGreaterThan(0.03)
    expect(at({ position: 0 }, 1.3, 2)).toBe(0)
    expect(at({ position: 0.5 }, 0.6, 1.4)).toBe(0)
    expect(at({ position: 0.5 }, 1.6, 2)).toBeGreaterThan(0.03)
    const [frozen] = live(x, { size: 50, density: 60, history: 2, position: 0.1 }, [{ t: 0.95, value: true }])
    expect(rms(frozen!, 3 * RATE, 4 * RATE)).toBeGreaterThan(0.03)
    // An octave up catches up with nothing that is not there yet.
    const up = live(sine(500, 2), { size: 400, density: 20, semitones: 12, position: 0 })[0]!
    expect(Math.abs(hzBetween(up, 1, 1.9) / 1000 - 1)).toBeLessThan(0.05)
  })

  it('are the same twice, and others with another voice', () => {
    const take = pink(1)
    expect(cloud(take, { spray: 1 }, 0.5)[0]).toEqual(cloud(take, { spray: 1 }, 0.5)[0])
  })

  it('are silent without a recording', () => {
    const heard = hear(patchOf([['g', 'grains']], []), 0.1, { taps: ['g.out'] })
    expect(heard.tap('g.out').every((x) => x === 0)).toBe(true)
  })
})
