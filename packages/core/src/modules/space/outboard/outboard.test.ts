/** Outboard: a block late and no more, the same however time is cut; devices that sound, ring out and are silent then. */
import { describe, expect, it } from 'vitest'
import { adviseOn } from '../../../advice/advise.ts'
import { compiled } from '../../../compile/compiled.ts'
import { Engine } from '../../../engine/engine.ts'
import { DEVICES } from '../../../outboard/devices.ts'
import { shareAt, valueAt } from '../../../outboard/device.ts'
import { hear, patchOf } from '../../../testing/bench.ts'
import { click, pink, RATE, sine, through } from '../../../testing/effects.ts'
import { testKernels } from '../../../testing/kernels.ts'
import { db, hzBetween, largest, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

const short = pink(0.02)
const EIGHT = [1, 2, 3, 4, 5, 6, 7, 8]
promises('outboard', {
  inputs: 'in pitch gate velocity',
  outputs: 'out',
  params: `device ${EIGHT.map((n) => `p${n} control${n}`).join(' ')}`,
})

type Params = Record<string, number | string>
/** Controls that set parameters of a device to values in its own units. */
const settings = (device: string, values: Readonly<Record<string, number>>): Params => ({
  device,
  ...Object.fromEntries(
    Object.entries(values).flatMap(([id, value], n) => {
      const parameter = DEVICES.find((one) => one.id === device)!.parameters.find((one) => one.id === id)!
      return [
        [`control${n + 1}`, id],
        [`p${n + 1}`, shareAt(parameter, value)],
      ]
    }),
  ),
})
const chord = (params: Params, play: string, seconds: number): Float32Array =>
  hear(
    patchOf(
      [
        ['n', 'notes', { voices: 8, mode: 'poly' }],
        ['d', 'outboard', { device: 'reed-strings', ...params }],
        ['o', 'output'],
      ],
      ['n.pitch > d.pitch', 'n.gate > d.gate', 'n.velocity > d.velocity', 'd.out > o.in'],
    ),
    seconds,
    { play, taps: ['d.out'] },
  ).tap('d.out')

/** Long sounds are compared as a whole: a difference sample by sample would take minutes to be put into words. */
const isSame = (a: Float32Array, b: Float32Array): boolean =>
  a.length === b.length && a.every((value, n) => Object.is(value, b[n]) || value === b[n])

describe('a device', () => {
  it('is one block late, and what passes by is as it was', () => {
    const x = pink(0.3)
    for (const device of ['worn-echo', 'far-plate']) {
      const [left, right] = through('outboard', settings(device, { blend: 0 }), x)()
      expect(isSame(left!.subarray(128), x.subarray(0, x.length - 128))).toBe(true)
      expect(isSame(right!, left!)).toBe(true)
    }
  })

  it('is brought to the same time where its sound meets the direct one', () => {
    const x = click(0.2)
    const heard = hear(
      patchOf(
        [
          ['i', 'input'],
          ['d', 'outboard', settings('far-plate', { blend: 0 })],
          ['m', 'mix'],
          ['o', 'output'],
        ],
        ['i.out > d.in', 'd.out > m.in1', 'i.out > m.in2', 'm.out > o.in'],
      ),
      0.2,
      { input: { rate: RATE, channels: [x, x] }, taps: ['m.out'] },
    ).tap('m.out')
    const at = heard.findIndex((v) => v !== 0)
    expect(at).toBe(128)
    expect(heard[at]).toBeCloseTo(2 * heard[at]! - heard[at]!, 9)
    expect([...heard].filter((v) => v !== 0)).toHaveLength(1)
  })

  it('echoes after its distance, each time softer, to the end', () => {
    const x = click(8)
    const [left] = through(
      'outboard',
      settings('worn-echo', {
        distance: 200,
        repeats: 0.5,
        wear: 0,
        heat: 0,
        tone: 9000,
        heads: 1,
        blend: 1,
      }),
      x,
    )()
    const peakNear = (ms: number): readonly [number, number] => {
      let best = 0
      for (let n = Math.round((ms - 6) * 48); n < (ms + 8) * 48; n += 1)
        if (Math.abs(left![n]!) > Math.abs(left![best]!)) best = n
      return [best, Math.abs(left![best]!)]
    }
    const [first, second] = [peakNear(202.67), peakNear(402.67)]
    expect(Math.abs((first[0] - 128) / 48 - 200)).toBeLessThan(1)
    expect(Math.abs((second[0] - first[0]) / 48 - 200)).toBeLessThan(1)
    expect(second[1] / first[1]).toBeLessThan(0.6)
    expect(largest(left!.subarray(7 * RATE))).toBe(0)
  })

  it('rings for as long as it is set to', () => {
    const x = Float32Array.from({ length: 6 * RATE }, (_, n) => (n < 960 ? short[n]! : 0))
    const [left] = through(
      'outboard',
      settings('far-plate', { ring: 2, brightness: 12000, door: 12000, walk: 0, blend: 1 }),
      x,
    )()
    const level = (s: number): number => db(rms(left!.subarray(s * RATE, (s + 0.1) * RATE), 0))
    expect((60 * 1) / (level(0.3) - level(1.3))).toBeGreaterThan(1.4)
    expect((60 * 1) / (level(0.3) - level(1.3))).toBeLessThan(2.3)
  })

  it('is heard once it has come down the corridor, though the room was silent until then', () => {
    const burst = Float32Array.from({ length: 2 * RATE }, (_, n) => (n < 960 ? short[n]! : 0))
    const [left] = through('outboard', settings('far-plate', { walk: 120, blend: 1 }), burst)()
    expect(largest(left!.subarray(0, 5000))).toBeLessThan(1e-6)
    expect(rms(left!.subarray(0.15 * RATE, 0.4 * RATE), 0)).toBeGreaterThan(0.003)
  })

  it('plays the notes of every voice in tune, six at a time, and falls silent', () => {
    const dry = settings('reed-strings', { ensemble: 0, age: 0, footage: 0, swell: 0.01, fall: 0.1 })
    const tone = chord(dry, '69@0.1+0.8', 3)
    expect(hzBetween(tone, 0.3, 0.8)).toBeCloseTo(440, 0)
    expect(largest(tone.subarray(0, Math.round(0.1 * RATE) + 128))).toBe(0)
    expect(largest(tone.subarray(2.5 * RATE))).toBe(0)
    const notes = [48, 52, 55, 60, 64, 67, 71, 74]
    const all = chord(dry, notes.map((note, n) => `${note}@${0.1 + 0.01 * n}+1`).join(' '), 1.2)
    const one = chord(dry, '48@0.1+1', 1.2)
    const ratio = rms(all.subarray(0.6 * RATE, RATE), 0) / rms(one.subarray(0.6 * RATE, RATE), 0)
    expect(ratio).toBeGreaterThan(Math.sqrt(6) * 0.75)
    expect(ratio).toBeLessThan(Math.sqrt(6) * 1.3)
  })

  it('follows what moves a control, block by block', () => {
    const x = sine(300, 1)
    const params = settings('far-plate', { blend: 0 })
    const heard = hear(
      patchOf(
        [
          ['i', 'input'],
          ['s', 'lfo', { rate: 2 }],
          ['d', 'outboard', params],
          ['o', 'output'],
        ],
        ['i.out > d.in', 's.square > d.p1', 'd.out > o.in'],
      ),
      1,
      { input: { rate: RATE, channels: [x, x] }, taps: ['d.out'] },
    ).tap('d.out')
    // Blend goes to and fro between nothing and all of it.
    const parts = [0.1, 0.35, 0.6, 0.85].map((s) => rms(heard.subarray(s * RATE, (s + 0.1) * RATE), 0))
    expect(Math.abs(parts[0]! - parts[1]!)).toBeGreaterThan(0.05)
  })

  it('is the same whether blocks are cut or whole, rested or not', () => {
    const patch = patchOf(
      [
        ['i', 'input'],
        ['n', 'notes', { voices: 4, mode: 'poly' }],
        ['e', 'outboard', { device: 'worn-echo', p3: 1 }],
        ['s', 'outboard', { device: 'reed-strings', p3: 0.1, p4: 0.1 }],
        ['o', 'output'],
      ],
      ['i.out > e.in', 's.out > e.in', 'n.pitch > s.pitch', 'n.gate > s.gate', 'e.out > o.in'],
    )
    const sound = pink(1),
      x = Float32Array.from({ length: 14 * RATE }, (_, n) =>
        n < 2000 || n > 13 * RATE ? sound[n % RATE]! : 0,
      )
    const heard = (lengths: (n: number) => number, rests: boolean): Float32Array => {
      const engine = new Engine(testKernels(), RATE)
      engine.runtime.allowRest(rests)
      engine.apply(patch)
      engine.runtime.schedule(4000, { type: 'on', note: 57, velocity: 0.8, id: 1 })
      engine.runtime.schedule(9003, { type: 'off', note: 57, velocity: 0.3, id: 1 })
      engine.runtime.schedule(13.2 * RATE, { type: 'on', note: 64, velocity: 0.8, id: 2 })
      const all = new Float32Array(x.length),
        left = new Float32Array(128),
        right = new Float32Array(128)
      for (let at = 0, n = 0; at < x.length; n += 1) {
        const count = Math.min(lengths(n), x.length - at)
        engine.runtime.process(left, right, 0, count, { left: x, right: x, offset: at })
        all.set(left.subarray(0, count), at)
        at += count
      }
      return all
    }
    const whole = heard(() => 128, true)
    expect(largest(whole.subarray(13.3 * RATE))).toBeGreaterThan(0.01)
    expect(largest(whole.subarray(12 * RATE, 13 * RATE))).toBe(0)
    expect(
      isSame(
        heard(() => 128, false),
        whole,
      ),
    ).toBe(true)
    expect(
      isSame(
        heard((n) => 1 + ((n * 37) % 128), true),
        whole,
      ),
    ).toBe(true)
  })

  it('that is not known is kept and silent, and the check says which there are', () => {
    const patch = patchOf(
      [
        ['i', 'input'],
        ['d', 'outboard', { device: 'my-own-box', control1: 'warp' }],
        ['e', 'outboard', { control1: 'warp' }],
        ['o', 'output'],
      ],
      ['i.out > d.in', 'i.out > e.in', 'd.out > o.in'],
    )
    const x = pink(0.3)
    expect(largest(hear(patch, 0.3, { input: { rate: RATE, channels: [x, x] } }).out)).toBe(0)
    const plan = compiled(patch)
    if (!plan.ok) throw new Error(plan.faults[0]!.message)
    const words = adviseOn(patch, plan.plan).hints.map(({ place, message }) => `${place}: ${message}`)
    expect(words.some((word) => /^d\.device: "my-own-box" is not known here/.test(word))).toBe(true)
    expect(words.some((word) => /^e\.control1: .* has no "warp"/.test(word))).toBe(true)
  })
})

describe.each(DEVICES)('$label', (device) => {
  it('has parameters and presets that fit, each its own', () => {
    const ids = device.parameters.map(({ id }) => id)
    expect(new Set(ids).size).toBe(ids.length)
    expect(device.presets.length).toBeGreaterThanOrEqual(4)
    for (const { values } of device.presets)
      for (const [id, value] of Object.entries(values)) {
        const parameter = device.parameters.find((one) => one.id === id)!
        expect(value).toBeGreaterThanOrEqual(parameter.min)
        expect(value).toBeLessThanOrEqual(parameter.max)
        expect(valueAt(parameter, shareAt(parameter, value))).toBeCloseTo(value, 2)
      }
  })

  it('sounds with every preset, neither too loud nor for ever, and stays finite at any setting', () => {
    const isPlayed = device.id === 'reed-strings'
    for (const { name, values } of device.presets) {
      const params = settings(device.id, values)
      const out = isPlayed
        ? chord(params, '57@0+1 60@0+1 64@0+1', 2)
        : through('outboard', params, pink(2))()[0]!
      expect(rms(out, RATE / 2), name).toBeGreaterThan(0.01)
      expect(largest(out), name).toBeLessThan(1.6)
    }
    for (const share of [0, 1]) {
      const params = { device: device.id, ...Object.fromEntries(EIGHT.map((n) => [`p${n}`, share])) }
      const loud = pink(2).map((v) => 20 * v)
      const out = isPlayed ? chord(params, '20@0+1 120@0+1', 2) : through('outboard', params, loud)()[0]!
      expect(Number.isFinite(largest(out))).toBe(true)
      expect(largest(out)).toBeLessThan(64)
    }
  })
})
