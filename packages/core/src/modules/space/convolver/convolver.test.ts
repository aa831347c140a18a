/** Convolver: against the sum that it stands for, for every length and shape, whatever the blocks are. */
import { describe, expect, it } from 'vitest'
import type { AssetSound } from '../../../describe/types.ts'
import { hear, patchOf } from '../../../testing/bench.ts'
import { pink, RATE, sine, through } from '../../../testing/effects.ts'
import { promises } from '../../../testing/promises.ts'
import { db, largest, rms } from '../../../testing/measure.ts'
import { Dice } from '../../../units/dice.ts'
import { SPACE_NAMES, spaceNamed } from './spaces.ts'

promises('convolver', { inputs: 'in', outputs: 'out', params: 'asset from length predelay mix per' })

type Params = Record<string, number | string | boolean>

const noise = (frames: number, seed: number, decay = 0): Float32Array => {
  const dice = new Dice(seed)
  return Float32Array.from({ length: frames }, (_, n) => (2 * dice.unit() - 1) * Math.exp(-decay * n))
}
const responseOf = (channels: number, frames: number, decay = 3 / frames): AssetSound => ({
  rate: RATE,
  channels: Array.from({ length: channels }, (_, n) => noise(frames, 11 + n, decay)),
})

/** Both sides of the wet sound. */
const wetOf = (
  sound: AssetSound,
  sides: readonly Float32Array[],
  params: Params = {},
  more: Parameters<typeof hear>[2] = {},
): readonly Float32Array[] =>
  hear(
    patchOf(
      [
        ['i', 'input'],
        ['c', 'convolver', { asset: 'place', mix: 1, ...params }],
        ['o', 'output'],
      ],
      ['i.out > c.in', 'c.out > o.in'],
    ),
    sides[0]!.length / RATE,
    {
      input: { rate: RATE, channels: [...sides] },
      taps: ['c.out'],
      assets: new Map([['place', sound]]),
      ...more,
    },
  ).lanes('c.out')

/** The sum itself, in double precision, at some frames. */
const summed = (x: Float32Array, h: Float32Array, at: number): number => {
  let y = 0
  for (let k = 0; k < h.length && k <= at; k += 1) y += h[k]! * x[at - k]!
  return y
}
const unit = (sound: AssetSound): number => {
  let energy = 0
  for (const channel of sound.channels) for (const x of channel) energy += x * x
  return Math.sqrt(Math.min(2, sound.channels.length) / energy)
}

/** Frames that are looked at: the first, around all the seams of blocks, and every so many. */
const places = (frames: number): number[] =>
  Array.from({ length: frames }, (_, n) => n).filter(
    (n) => n < 3 || n % 977 === 0 || (n % 128 < 1 && n % 640 === 0) || n % 2048 > 2046 || n % 4096 < 1,
  )

describe('convolver', () => {
  it.each([
    [1, 1],
    [1, 100],
    [2, 128],
    [2, 129],
    [1, 1000],
    [2, 4096],
    [2, 4097],
    [4, 9000],
    [2, 30000],
  ])('is the sum itself: %i channels of %i taps', (channels, frames) => {
    const sound = responseOf(channels, frames),
      scale = unit(sound),
      sides = [noise(44000, 3), noise(44000, 4)]
    const wet = wetOf(sound, sides)
    const level = Math.max(rms(wet[0]!, 0), 1e-9)
    const from = (side: number): readonly (readonly [Float32Array, Float32Array])[] =>
      channels === 4
        ? [
            [sides[0]!, sound.channels[side]!],
            [sides[1]!, sound.channels[2 + side]!],
          ]
        : [[sides[side]!, sound.channels[channels === 2 ? side : 0]!]]
    for (const side of [0, 1]) {
      let most = 0
      for (const at of places(44000)) {
        const wanted = scale * from(side).reduce((sum, [x, h]) => sum + summed(x, h, at), 0)
        most = Math.max(most, Math.abs(wet[side]![at]! - wanted))
      }
      expect(db(most / level)).toBeLessThan(-110)
    }
  })

  it('has no delay: the first tap is heard at once', () => {
    const one = { rate: RATE, channels: [Float32Array.from([1, 0, 0, 0.5])] }
    const x = noise(3000, 5)
    const [left] = wetOf(one, [x, x])
    const scale = 1 / Math.sqrt(1.25)
    for (const n of [0, 1, 2, 3, 127, 128, 129, 2047, 2048, 2999])
      expect(left![n]).toBeCloseTo(scale * (x[n]! + 0.5 * (x[n - 3] ?? 0)), 5)
  })

  it('takes the part that is set, later by the predelay', () => {
    const sound = responseOf(2, 20000, 0),
      x = noise(30000, 6),
      scale = unit(sound)
    const [left] = wetOf(sound, [x, x], { from: 0.25, length: 0.5, predelay: 10 })
    const part = sound.channels[0]!.subarray(5000, 15000)
    for (const at of [479, 480, 481, 5000, 20000, 29999])
      expect(left![at]).toBeCloseTo(scale * summed(x, part, at - 480), 3)
    // Nothing is left of it, or nothing of the recording.
    expect(largest(wetOf(sound, [x, x], { from: 1 })[0]!)).toBe(0)
    expect(largest(wetOf(sound, [x, x], { length: 0 })[0]!)).toBe(0)
  })

  it('changes its part and its predelay without a click, and is the new one then', () => {
    const sound = responseOf(2, 24000, 1 / 4000),
      tone = sine(110, 2.5)
    const own = (params: Params): number => {
      const [y] = wetOf(sound, [tone, tone], params)
      return largest(y!.map((v, n) => (n ? v - y![n - 1]! : 0)))
    }
    const events = [
      { t: 0.8, type: 'param', target: 'c.from', value: 0.3 },
      { t: 1, type: 'param', target: 'c.length', value: 0.2 },
      { t: 1.3, type: 'param', target: 'c.predelay', value: 90 },
    ] as const
    const [y] = wetOf(sound, [tone, tone], {}, { events })
    const steps = y!.map((v, n) => (n ? v - y![n - 1]! : 0))
    const most = Math.max(own({}), own({ from: 0.3, length: 0.2, predelay: 90 }), own({ from: 0.3 }))
    expect(largest(steps)).toBeLessThan(1.1 * most)
    const [then] = wetOf(sound, [tone, tone], { from: 0.3, length: 0.2, predelay: 90 })
    const rest = y!.map((v, n) => v - then![n]!)
    expect(db(largest(rest.subarray(2.2 * RATE)) / rms(then!, RATE))).toBeLessThan(-100)
  })

  it('follows a part that is moved all the time, and never grows', () => {
    const sound = responseOf(2, 24000, 1 / 4000),
      x = noise(2 * RATE, 8)
    const heard = hear(
      patchOf(
        [
          ['i', 'input'],
          ['l', 'lfo', { rate: 3 }],
          ['c', 'convolver', { asset: 'place', mix: 1, from: 0.3, length: 0.4 }],
          ['o', 'output'],
        ],
        ['i.out > c.in', 'c.out > o.in', 'l.sine > c.from * 0.3', 'l.sine > c.length * 0.3'],
      ),
      2,
      { input: { rate: RATE, channels: [x, x] }, taps: ['c.out'], assets: new Map([['place', sound]]) },
    ).lanes('c.out')[0]!
    expect(db(rms(heard, RATE) / rms(x, 0))).toBeLessThan(3)
    expect(rms(heard, RATE)).toBeGreaterThan(0.01)
  })

  it.each(SPACE_NAMES)('%s is there at once, has two sides that differ, and falls silent', (name) => {
    const { channels, rate } = spaceNamed(name, 44100)!
    expect(rate).toBe(44100)
    const [left, right] = channels
    let both = 0
    for (let n = 0; n < left!.length; n += 1) both += left![n]! * right![n]!
    expect(Math.abs(both / (left!.length * rms(left!, 0) * rms(right!, 0)))).toBeLessThan(0.6)
    expect(db(rms(left!, left!.length - 2000) / largest(left!))).toBeLessThan(-50)
    // About as loud as what goes in, and no quieter on one loudspeaker.
    const sound = pink(3),
      wet = through('convolver', { mix: 1, asset: name }, sound)(),
      loud = Math.hypot(rms(wet[0]!, RATE), rms(wet[1]!, RATE)) / Math.SQRT2
    expect(Math.abs(db(loud / rms(sound, RATE)))).toBeLessThan(3)
    const folded = wet[0]!.map((x, n) => (x + wet[1]![n]!) / 2)
    expect(db(rms(folded, RATE) / loud)).toBeGreaterThan(-3)
    // The same place at another rate lasts as long.
    expect(spaceNamed(name, 96000)!.channels[0]!.length / 96000).toBeCloseTo(left!.length / 44100, 3)
  })
})
