/** What every finished effect promises: sides, voices, dry and wet. New ones are found in the catalogue. */
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { Engine } from '../engine/engine.ts'
import { testKernels } from '../testing/kernels.ts'
import { compiled } from '../compile/compiled.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { pink, RATE, sine, through } from '../testing/effects.ts'
import { db, largest, rms } from '../testing/measure.ts'

const EFFECTS = [...CATALOGUE.entries()]
  .filter(([, { description }]) => description.shape?.sumsVoices === 'unless apart')
  .map(([type, { description }]) => ({ type, description, main: description.outputs[0]!.name }))
const QUIET = RATE / 4

describe.each(EFFECTS)('$type', ({ type, description, main }) => {
  const late =
    description.latency?.({
      sampleRate: RATE,
      number: (name) => Number(CATALOGUE.get(type)!.params.get(name)?.default),
      choice: (name) => String(CATALOGUE.get(type)!.params.get(name)?.default),
    }) ?? 0
  const sound = pink(1.5)

  it('gives two sides, a mono sound at full level on both', () => {
    const sides = through(type, { mix: 0 }, sound, [main])()
    expect(sides).toHaveLength(2)
    expect(sides[0]).toEqual(sides[1])
  })

  it('is the direct sound bit for bit at mix 0', () => {
    const [left] = through(type, { mix: 0 }, sound, [main])()
    expect(left!.subarray(late)).toEqual(sound.subarray(0, sound.length - late))
  })

  it('is about as loud as the direct sound, and loses little on one loudspeaker', () => {
    const [left, right] = through(type, { mix: 1 }, [pink(1.5), pink(1.5)], [main])()
    const dry = rms(sound, QUIET),
      wet = Math.hypot(rms(left!, QUIET), rms(right!, QUIET)) / Math.SQRT2
    expect(Math.abs(db(wet / dry))).toBeLessThan(3)
    const folded = Float32Array.from(left!, (x, n) => (x + right![n]!) / 2)
    expect(db(rms(folded, QUIET) / wet)).toBeGreaterThan(-3)
  })

  it('sums the voices, unless they are to stay apart', () => {
    for (const per of ['sum', 'voice']) {
      const result = compiled(
        patchOf(
          [
            ['n', 'notes', { voices: 5 }],
            ['o', 'oscillator'],
            ['e', type, { per }],
            ['out', 'output'],
          ],
          ['n.pitch > o.pitch', 'o.saw > e.in', `e.${main} > out.in`],
        ),
      )
      if (!result.ok) throw new Error(result.faults[0]!.message)
      const planned = result.plan.modules.find(({ id }) => id === 'e')!
      expect([planned.voices, planned.sides]).toEqual([per === 'sum' ? 1 : 5, 2])
    }
  })

  it('does for each of many voices, apart, what it does for one alone, whatever moves it', () => {
    // Four voices fill two groups of lanes, one voice half of one: other paths through the same kernel.
    const lanesOf = (voices: number, play: string): readonly Float32Array[] =>
      hear(
        patchOf(
          [
            ['i', 'input'],
            ['n', 'notes', { voices, mode: 'poly' }],
            ['v', 'multiply'],
            ['s', 'envelope', { attack: 0.1, decay: 0.2, sustain: 0.3 }],
            ['e', type, { per: 'voice', mix: 0.7 }],
          ],
          [
            'i.out > v.a',
            'n.gate > v.b',
            'n.gate > s.gate',
            'v.out > e.in',
            ...description.params.flatMap((param) => {
              if (param.kind !== 'number' || param.setOnly || param.name === 'mix') return []
              const amount = param.log || param.time ? 0.5 : 0.15 * (param.max - param.min)
              return [`s.env > e.${param.name} * ${amount}`]
            }),
          ],
        ),
        0.6,
        { input: { rate: RATE, channels: [sound, sound] }, taps: [`e.${main}`], play },
      ).lanes(`e.${main}`)
    const many = lanesOf(4, '60@0+0.02 64@0.03+0.02 67@0.06+0.3'),
      alone = lanesOf(1, '67@0.06+0.3')
    expect([many.length, alone.length]).toEqual([8, 2])
    expect(largest(alone[0]!)).toBeGreaterThan(0.05)
    for (const side of [0, 1]) {
      let apart = 0
      for (let n = 0; n < alone[side]!.length; n += 1)
        apart = Math.max(apart, Math.abs(many[4 + side]![n]! - alone[side]![n]!))
      expect(apart).toBeLessThan(1e-5)
    }
  })

  it('rings on when it is bypassed, with what comes in passed as it is, and comes back without a click', () => {
    const at = Math.round(0.3 * RATE),
      back = Math.round(0.8 * RATE)
    const bypassed = (x: Float32Array, per: string): readonly Float32Array[] =>
      hear(
        patchOf(
          [
            ['i', 'input'],
            ['e', type, { mix: 0.5, per }],
            ['o', 'output'],
          ],
          ['i.out > e.in', `e.${main} > o.in`],
        ),
        x.length / RATE,
        {
          input: { rate: RATE, channels: [x, x] },
          taps: [`e.${main}`],
          events: [
            { t: 0.3, type: 'bypass', target: 'e', value: true },
            { t: 0.8, type: 'bypass', target: 'e', value: false },
          ],
        },
      ).lanes(`e.${main}`)
    const burst = sound.map((x, n) => (n < at - RATE / 10 ? x : 0))
    for (const per of ['sum', 'voice']) {
      // Nothing comes in while it changes: what rings is what rings without it.
      const left = bypassed(burst, per)[0]!,
        plain = through(type, { mix: 0.5, per }, burst, [main])()[0]!
      expect(Buffer.from(left.buffer).equals(Buffer.from(plain.buffer))).toBe(true)
      // What comes in then is passed as it is, as late as the effect is, and nothing of it rings.
      const more = burst.map((x, n) => (n > at + RATE / 10 && n < back - RATE / 10 ? sound[n]! : x))
      const both = bypassed(more, per)[0]!
      const apart = both.map((x, n) =>
        Math.abs(x - (plain[n]! + (more[n - late] ?? 0) - (burst[n - late] ?? 0))),
      )
      expect(largest(apart.subarray(at))).toBeLessThan(1e-6)
      // A slow wave through all of it: no step beyond its own.
      const wave = sine(100, 1.2)
      const steps = (x: Float32Array): Float32Array => x.map((y, n) => (n ? y - x[n - 1]! : 0))
      const heard = steps(bypassed(wave, per)[0]!)
      const own = largest(steps(through(type, { mix: 0.5, per }, wave, [main])()[0]!)),
        dry = largest(steps(wave))
      expect(largest(heard)).toBeLessThan(1.05 * (own + dry) + 0.01)
    }
  })

  it('goes on as if it had not rested', () => {
    // Two bursts, the tail of the first gone long before the second: rest allowed and not.
    const two = Float32Array.from({ length: 7 * RATE }, (_, n) => sound[n % (6.5 * RATE)] ?? 0)
    const params = {
      mix: 1,
      ...(CATALOGUE.get(type)!.params.has('decay') ? { decay: 0.4 } : {}),
      ...(type === 'freqshift' ? { shift: 3 } : {}),
      ...(type === 'delay' ? { motion: 0.5, feedback: 0 } : {}),
    }
    const heard = (rests: boolean): Float32Array => {
      const engine = new Engine(testKernels(), RATE)
      engine.runtime.allowRest(rests)
      engine.apply(
        patchOf(
          [
            ['i', 'input'],
            ['e', type, params],
            ['o', 'output'],
          ],
          ['i.out > e.in', `e.${main} > o.in`],
        ),
      )
      const left = new Float32Array(128),
        right = new Float32Array(128),
        all = new Float32Array(two.length)
      for (let at = 0; at + 128 <= two.length; at += 128) {
        engine.runtime.process(left, right, 0, 128, { left: two, right: two, offset: at })
        all.set(left, at)
      }
      return all
    }
    const rested = heard(true)
    // The tail of the first is gone: there was something to rest for.
    expect(largest(rested.subarray(6 * RATE, 6.4 * RATE))).toBe(0)
    expect(rested).toEqual(heard(false))
  })

  it('costs nothing once its tail is gone', () => {
    // Rests: the tail ends in true silence.
    const burst = Float32Array.from({ length: 12 * RATE }, (_, n) => (n < 2000 ? sound[n]! : 0))
    const [left] = through(type, { mix: 1 }, burst, [main])()
    expect(left!.subarray(11.5 * RATE).every((x) => x === 0)).toBe(true)
  })
})

it('there are effects to look at', () => {
  expect(EFFECTS.length).toBeGreaterThan(3)
})
