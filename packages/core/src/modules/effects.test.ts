/** What every finished effect promises: sides, voices, dry and wet. New ones are found in the catalogue. */
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { compiled } from '../compile/compiled.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { pink, RATE, through } from '../testing/effects.ts'
import { db, largest, rms } from '../testing/measure.ts'

const EFFECTS = [...CATALOGUE.entries()]
  .filter(([, { description }]) => description.shape?.sumsVoices === 'unless apart')
  .map(([type, { description }]) => ({ type, description, main: description.outputs[0]!.name }))
const QUIET = RATE / 4

describe.each(EFFECTS)('$type', ({ type, description, main }) => {
  const late = description.latency?.({
    sampleRate: RATE,
    number: (name) => Number(CATALOGUE.get(type)!.params.get(name)?.default),
    choice: (name) => String(CATALOGUE.get(type)!.params.get(name)?.default),
  })
  const sound = pink(1.5)

  it('gives two sides, a mono sound at full level on both', () => {
    const sides = through(type, { mix: 0 }, sound, [main])()
    expect(sides).toHaveLength(2)
    expect(sides[0]).toEqual(sides[1])
  })

  it('is the direct sound bit for bit at mix 0', () => {
    const [left] = through(type, { mix: 0 }, sound, [main])()
    expect(left!.subarray(late ?? 0)).toEqual(sound.subarray(0, sound.length - (late ?? 0)))
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
