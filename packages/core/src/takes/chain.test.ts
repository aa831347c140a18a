/** Chains over recordings: every kind against its formula, any piece of any length the same, faults by their place. */
import { describe, expect, it } from 'vitest'
import { loudness } from '../analysis/loudness.ts'
import { truePeakOf } from '../analysis/truepeak.ts'
import type { Sound } from '../formats/wav.ts'
import { render } from '../render/render.ts'
import { patchOf } from '../testing/bench.ts'
import { pink, sine, through } from '../testing/effects.ts'
import { testKernels } from '../testing/kernels.ts'
import { db, hzBetween, largest, rms } from '../testing/measure.ts'
import { planChain, runChain, STEP_KINDS } from './chain.ts'
import { fractionOf } from './kinds/speed.ts'
import type { StepPatch, Tools } from './step.ts'
import { MemorySpool, PIECE, soundOf, type Tape, tapeOf } from './tape.ts'

const RATE = 48000
const stereo = (seconds: number): Sound => ({ rate: RATE, channels: [pink(seconds), pink(seconds, 5)] })
const room: StepPatch = {
  patch: patchOf(
    [
      ['in', 'input'],
      ['r', 'reverb', { decay: 0.4, mix: 0.5 }],
      ['out', 'output', { level: 0 }],
    ],
    ['in.out > r.in', 'r.out > out.in'],
  ),
  assets: new Map(),
}
const tools: Tools = {
  kernels: testKernels(),
  patch: (name) => (name === 'room' ? room : undefined),
  spool: (rate, channels) => new MemorySpool(rate, channels),
}
type Fields = Readonly<Record<string, unknown>>
const step = (kind: string, fields: Fields = {}) => ({ id: 's', kind, on: true, ...fields })

const tapeThrough = async (tape: Tape, ...steps: readonly unknown[]): Promise<Tape> => {
  const plan = planChain(steps, tape, tools)
  if (!plan.ok) throw new Error(plan.faults.map(({ place, message }) => `${place}: ${message}`).join('\n'))
  const running = runChain(plan.value, tape, tools)
  let last = 0,
    next = await running.next()
  while (!next.done) {
    expect(next.value).toBeGreaterThanOrEqual(last)
    expect(next.value).toBeLessThanOrEqual(1)
    last = next.value
    next = await running.next()
  }
  const { rate, channels, frames } = next.value
  expect({ rate, channels, frames }).toEqual(plan.value.shape)
  return next.value
}
const made = async (sound: Sound, ...steps: readonly unknown[]): Promise<Sound> =>
  soundOf(await tapeThrough(tapeOf(sound), ...steps))
const isSame = (a: Float32Array, b: Float32Array): boolean =>
  a.length === b.length && a.every((x, n) => x === b[n])
const faultsOf = (chain: unknown, frames = 1000): readonly string[] => {
  const plan = planChain(chain, { rate: RATE, channels: 2, frames }, tools)
  return plan.ok ? [] : plan.faults.map(({ place, message }) => `${place}: ${message}`)
}

/** One of every kind, as somebody would set it. */
const ALL: Readonly<Record<string, Fields>> = {
  cut: { from: 3000, to: 60000 },
  fade: { in: 4000, out: 9000, curve: 0.4 },
  gain: { db: -6 },
  normalise: { to: -3, measure: 'lufs' },
  dc: {},
  reverse: {},
  speed: { semitones: 5 },
  equaliser: { params: { b2on: true, b2type: 'bell', b2freq: 2000, b2gain: 9 } },
  transient: { params: { attack: 0.5 } },
  patch: { patch: 'room', mix: 0.6, tail: 0.5 },
}

describe('every kind of step', () => {
  it('is tried here', () => {
    expect(Object.keys(ALL).sort()).toEqual([...STEP_KINDS.keys()].sort())
  })

  it.each(Object.entries(ALL))('%s gives the same in whatever pieces it is read', async (kind, fields) => {
    const tape = await tapeThrough(tapeOf(stereo(1.6)), step(kind, fields))
    const whole = await soundOf(tape)
    for (const [from, to] of [
      [0, 1],
      [-700, 300],
      [1234, 9999],
      [tape.frames - 500, tape.frames + 800],
      [tape.frames + 10, tape.frames + 20],
    ] as const) {
      const piece = await tape.read(from, to)
      piece.forEach((side, n) => {
        const wanted = Float32Array.from({ length: to - from }, (_, i) => whole.channels[n]![from + i] ?? 0)
        expect(isSame(side, wanted), `${from}…${to}`).toBe(true)
      })
    }
  })

  it.each(Object.entries(ALL))(
    '%s leaves the recording alone, and off it changes nothing',
    async (kind, fields) => {
      const sound = stereo(1.4),
        before = sound.channels.map((side) => side.slice())
      await made(sound, step(kind, fields))
      sound.channels.forEach((side, n) => {
        expect(isSame(side, before[n]!)).toBe(true)
      })
      const off = await made(sound, { ...step(kind, fields), on: false })
      off.channels.forEach((side, n) => {
        expect(isSame(side, before[n]!)).toBe(true)
      })
    },
  )

  it('reads no more than a few pieces at once, however long the recording is', async () => {
    let most = 0
    // A quarter of a minute that is nowhere.
    const long: Tape = {
      rate: RATE,
      channels: 2,
      frames: 15 * RATE,
      read: (from, to) => {
        most = Math.max(most, to - from)
        const side = Float32Array.from(
          { length: to - from },
          (_, i) => 0.3 * ((((from + i) * 7919) % 997) / 498.5 - 1),
        )
        return Promise.resolve([side, side])
      },
    }
    const tape = await tapeThrough(
      long,
      step('cut', { from: 1000, to: long.frames - 5 }),
      step('dc'),
      step('reverse'),
      step('normalise', { to: -14, measure: 'lufs' }),
      step('speed', { factor: 0.97 }),
      step('normalise', { to: -20, measure: 'peak' }),
    )
    const [piece] = await tape.read(tape.frames - PIECE, tape.frames)
    expect(Math.abs(db(largest(piece!)) + 20)).toBeLessThan(0.5)
    expect(most).toBeLessThan(3 * PIECE)
  })
})

describe('steps', () => {
  const tone = (level = 0.5): Sound => ({ rate: RATE, channels: [sine(440, 2, level), sine(660, 2, level)] })

  it('cut, fade and gain do what their numbers say', async () => {
    const { channels } = await made(stereo(0.5), step('cut', { from: 480, to: 9480 }))
    expect(channels[0]!.length).toBe(9000)
    expect(isSame(channels[0]!, pink(0.5).subarray(480, 9480))).toBe(true)
    const flat: Sound = { rate: RATE, channels: [new Float32Array(1000).fill(1)] }
    const faded = (await made(flat, step('fade', { in: 100, out: 200 }))).channels[0]!
    for (const n of [0, 1, 50, 99]) expect(faded[n]).toBeCloseTo(n / 100, 6)
    expect(faded[500]).toBe(1)
    for (const n of [0, 1, 100, 199]) expect(faded[999 - n]).toBeCloseTo(n / 200, 6)
    const bent = (await made(flat, step('fade', { in: 100, curve: 1 }))).channels[0]!
    expect(bent[50]).toBeGreaterThan(0.9)
    expect(bent.every((x, n) => n === 0 || x >= bent[n - 1]!)).toBe(true)
    const half = (await made(flat, step('gain', { db: 20 * Math.log10(0.5) }))).channels[0]!
    expect(half[3]).toBeCloseTo(0.5, 7)
  })

  it('normalise meets what is measured, together for all channels, and leaves silence', async () => {
    const sound: Sound = { rate: RATE, channels: [sine(11025.7, 3, 0.3), sine(300, 3, 0.1)] }
    const peak = await made(sound, step('normalise', { to: -6, measure: 'peak' }))
    expect(db(Math.max(...peak.channels.map((side) => largest(side))))).toBeCloseTo(-6, 3)
    const real = await made(sound, step('normalise', { to: -1, measure: 'truepeak' }))
    expect(db(truePeakOf(real.channels))).toBeCloseTo(-1, 3)
    const loud = await made(sound, step('normalise', { to: -23, measure: 'lufs' }))
    expect(loudness(loud)).toBeCloseTo(-23, 2)
    expect(rms(loud.channels[0]!) / rms(loud.channels[1]!)).toBeCloseTo(3, 2)
    for (const measure of ['peak', 'truepeak', 'lufs']) {
      const nothing = await made(
        { rate: RATE, channels: [new Float32Array(30000)] },
        step('normalise', { measure }),
      )
      expect(largest(nothing.channels[0]!)).toBe(0)
    }
  })

  it('dc takes what is constant off, reverse turns, twice it is as it was', async () => {
    const sound: Sound = { rate: RATE, channels: [sine(440, 1, 0.2).map((x) => x + 0.3)] }
    const { channels } = await made(sound, step('dc'))
    const mean = channels[0]!.reduce((sum, x) => sum + x, 0) / channels[0]!.length
    expect(Math.abs(mean)).toBeLessThan(1e-6)
    const noise = stereo(0.3)
    const back = await made(noise, step('reverse'))
    expect(back.channels[1]![0]).toBe(noise.channels[1]!.at(-1))
    const twice = await made(noise, step('reverse'), step('reverse'))
    expect(isSame(twice.channels[0]!, noise.channels[0]!)).toBe(true)
  })

  it('speed changes pitch and length by its factor and its semitones, and folds nothing back', async () => {
    for (const [fields, ratio] of [
      [{ factor: 2 }, 2],
      [{ factor: 0.5 }, 0.5],
      [{ semitones: 7 }, 2 ** (7 / 12)],
      [{ factor: 1.5, semitones: -12 }, 0.75],
      [{ factor: 1.0007 }, 1.0007],
    ] as const) {
      const { channels } = await made(tone(), step('speed', fields))
      expect(Math.abs(channels[0]!.length - (2 * RATE) / ratio)).toBeLessThan(60)
      const hz = hzBetween(channels[0]!, 0.1, 0.8)
      expect(Math.abs(1200 * Math.log2(hz / (440 * ratio)))).toBeLessThan(0.2)
    }
    // What would be beyond half the rate is gone.
    const { channels } = await made({ rate: RATE, channels: [sine(15000, 1)] }, step('speed', { factor: 2 }))
    expect(db(rms(channels[0]!, 2000, 20000))).toBeLessThan(-90)
    for (const ratio of [0.5001, Math.SQRT2, 1 / 16, 15.99]) {
      const [top, bottom] = fractionOf(ratio, 16384)
      expect(Math.abs(1200 * Math.log2(top / bottom / ratio))).toBeLessThan(0.1)
    }
  })

  it('modules and patches sound as they do on the bench', async () => {
    // Longer than what is read at once.
    const sound = stereo(3.2)
    const params = { b2on: true, b2type: 'bell', b2freq: 2000, b2gain: 9 }
    const own = through('equalizer', params, sound.channels as [Float32Array, Float32Array])()
    const { channels } = await made(sound, step('equaliser', { params }))
    channels.forEach((side, n) => {
      expect(isSame(side, own[n]!)).toBe(true)
    })
    const mono = await made({ rate: RATE, channels: [sound.channels[0]!] }, step('equaliser', { params }))
    expect(mono.channels).toHaveLength(1)
    expect(isSame(mono.channels[0]!, through('equalizer', params, sound.channels[0]!)()[0]!)).toBe(true)
    const wet = await made(sound, step('patch', { patch: 'room', tail: 0.5 }))
    const end = 3.2 * RATE
    expect(wet.channels[0]!.length).toBe(end + 0.5 * RATE)
    expect(rms(wet.channels[0]!, end + 100, end + 5000)).toBeGreaterThan(1e-3)
    const at = render(testKernels(), room.patch, { seconds: 3.7, input: sound })
    if (!at.ok) throw new Error(at.faults[0]!.message)
    wet.channels.forEach((side, n) => {
      expect(isSame(side, at.value.sound.channels[n]!)).toBe(true)
    })
    const dry = await made(sound, step('patch', { patch: 'room', mix: 0 }))
    expect(isSame(dry.channels[0]!, sound.channels[0]!)).toBe(true)
  })
})

describe('what is wrong', () => {
  it('is said with step and field, and nothing is made', () => {
    const wrong: readonly (readonly [unknown, string])[] = [
      [{}, 'chain: expected a list of steps'],
      [[3], 'chain.0: expected a step, found 3'],
      [[step('stretch')], 'chain.0.kind: "stretch" is no kind of step; there are cut, '],
      [[step('cut', { from: 10, to: 2000 })], 'chain.0.to: 2000 is above 1000'],
      [[step('cut', { from: 10, to: 10 })], 'chain.0.to: 10 is not behind the beginning at 10'],
      [[step('cut', { from: 1.5 })], 'chain.0.from: 1.5 is not a whole number'],
      [[step('cut', { from: 10, to: 60 }), step('fade', { in: 51 })], 'chain.1.in: 51 is above 50'],
      [[step('gain', { db: 'loud' })], 'chain.0.db: expected a number, found "loud"'],
      [[step('gain', { db: Number.NaN })], 'chain.0.db: is not a finite number'],
      [[step('normalise', { measure: 'rms' })], 'chain.0.measure: "rms" is not one of peak, truepeak, lufs'],
      [[step('speed', { factor: 0 })], 'chain.0.factor: 0 is below'],
      [[step('speed', { factor: 12, semitones: 24 })], 'chain.0.factor: with its semitones it is 48.00'],
      [[step('equaliser', { params: { b1gain: 99 } })], 'chain.0.params.b1gain: 99 is above 24'],
      [
        [step('equaliser', { params: { b1width: 1 } })],
        'chain.0.params.b1width: equalizer has no such parameter',
      ],
      [[step('equaliser', { params: [] })], 'chain.0.params: expected settings by name'],
      [[step('patch', {})], 'chain.0.patch: expected a patch, found nothing'],
      [[step('patch', { patch: 'gone' })], 'chain.0.patch: "gone" is not here'],
      [Array.from({ length: 70 }, () => step('dc')), 'chain: 70 steps are more than 64'],
    ]
    for (const [chain, words] of wrong) expect(faultsOf(chain).join('\n')).toContain(words)
    expect(faultsOf([step('gain', { db: 99 }), step('stretch')])).toHaveLength(1)
    // What is off may be as it likes.
    expect(faultsOf([{ ...step('cut', { from: 5000 }), on: false }])).toEqual([])
  })
})
