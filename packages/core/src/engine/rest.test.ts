/** What rests must hear everything that the host sets: words, probes, notes. Played with rest on and off. */
import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import { compile } from '../compile/compile.ts'
import type { ModuleDescription } from '../describe/types.ts'
import type { Patch } from '../patch/types.ts'
import { patchOf } from '../testing/bench.ts'
import { testKernels } from '../testing/kernels.ts'
import { Engine } from './engine.ts'
import { targetEvents } from './targets.ts'

const RATE = 48000,
  BLOCK = 128
/** Long enough for what can rest to rest. */
const SETTLED = 40,
  AFTER = 12

/** Every output of a module, block by block: the lanes' last frames. */
const play = (
  patch: Patch,
  keys: readonly string[],
  rests: boolean,
  change: (engine: Engine) => void,
): number[][] => {
  const engine = new Engine(testKernels(), RATE)
  engine.runtime.allowRest(rests)
  const applied = engine.apply(patch)
  if (!applied.ok) throw new Error(applied.faults[0]!.message)
  const left = new Float32Array(BLOCK),
    right = new Float32Array(BLOCK)
  const heard: number[][] = []
  const run = (blocks: number): void => {
    for (let n = 0; n < blocks; n += 1) {
      engine.runtime.process(left, right, 0, BLOCK)
      heard.push([
        ...left,
        ...keys.flatMap((key) => {
          const signal = engine.layout.signal(key)!
          return Array.from({ length: signal.voices * signal.sides }, (_, lane) => {
            const { address, stride } = engine.runtime.laneOf(signal.address, lane)
            return engine.runtime.f32(address + (BLOCK - 1) * stride)
          })
        }),
      ])
    }
  }
  run(SETTLED)
  change(engine)
  run(AFTER)
  return heard
}

/** A module whose inputs all stand still at different values, and are read in the shape they have. */
const stillAround = (module: ModuleDescription): Patch =>
  patchOf(
    [
      ['v', 'value', { value: 0.7 }],
      ['w', 'value', { value: -0.4 }],
      ['m', module.type],
      ['sum', 'mix'],
      ['out', 'output', { level: -12 }],
    ],
    [
      ...module.inputs.map(({ name }, n) => `${n % 2 ? 'w' : 'v'}.out > m.${name}`),
      ...module.outputs.map(({ name }) => `m.${name} > sum.in1 * 0.1`),
      'sum.out > out.in',
    ],
  )

const words = PUBLIC_MODULES.filter(
  ({ flattened, role, internal }) => !flattened && !internal && role === undefined,
).flatMap((module) =>
  module.params.flatMap((param) =>
    param.kind === 'choice' && !param.setOnly
      ? param.choices.filter((word) => word !== param.default).map((word) => ({ module, param, word }))
      : [],
  ),
)

describe('what rests', () => {
  it('hears every word that is set', () => {
    let moved = 0
    for (const { module, param, word } of words) {
      const patch = stillAround(module),
        keys = module.outputs.map(({ name }) => `m.${name}`)
      if (!compile(patch).ok) continue
      const set = (engine: Engine): void => {
        const events = targetEvents(engine.layout, patch, `m.${param.name}`, word, 0, RATE)
        if (!Array.isArray(events)) throw new Error(events.message)
        for (const event of events) engine.runtime.send({ event })
      }
      const resting = play(patch, keys, true, set)
      expect(resting, `${module.type}.${param.name} ${word}`).toEqual(play(patch, keys, false, set))
      if (resting[SETTLED - 1]!.some((x, n) => x !== resting[SETTLED]![n])) moved += 1
    }
    // Enough of them say something else at once for the comparison to mean something.
    expect(moved).toBeGreaterThan(20)
  })

  it('writes an output from when somebody looks at it', () => {
    const patch = patchOf(
      [
        ['v', 'value', { value: -0.4 }],
        ['m', 'compare'],
        ['out', 'output'],
      ],
      ['v.out > m.a', 'm.above > out.in'],
    )
    const key = 'm.below'
    const look = (engine: Engine): void => {
      const word = engine.layout.setWatched(key, true)!,
        ring = engine.layout.watchRing(key),
        { address, voices, sides } = engine.layout.signal(key)!
      const watches = [{ signal: address, voices, sides, ring: ring.address }]
      engine.runtime.send({ list: { watches, words: [word], memoryBytes: ring.memoryBytes } })
    }
    const resting = play(patch, [key], true, look)
    expect(resting).toEqual(play(patch, [key], false, look))
    expect(resting.at(-1)!.at(-1)).not.toBe(resting[0]!.at(-1))
  })

  it('hears notes, touches, the pedal and silence', () => {
    const patch = patchOf(
      [
        ['n', 'notes', { voices: 2, mode: 'poly' }],
        ['e', 'envelope', { attack: 0.001, decay: 0.001, sustain: 0.5, release: 0.01 }],
        ['m', 'multiply'],
        ['sum', 'mix'],
        ['out', 'output'],
      ],
      [
        'n.gate > e.gate',
        'n.pressure > m.a',
        'n.velocity > m.b',
        'm.out > sum.in1',
        'e.env > sum.in2',
        'n.held > sum.in3',
        'sum.out > out.in',
      ],
    )
    const keys = ['n.gate', 'n.pressure', 'n.held', 'm.out', 'e.env', 'sum.out']
    const on = { type: 'on', note: 50, velocity: 0.8, id: 1 } as const
    for (const event of [
      on,
      { type: 'pressure', value: 0.6 },
      { type: 'control', controller: 64, value: 1 },
      { type: 'off', note: 50, velocity: 0, id: 1 },
      { type: 'silence' },
    ] as const) {
      const act = (engine: Engine): void => {
        if (event !== on) engine.runtime.send({ event: on })
        const left = new Float32Array(BLOCK)
        for (let n = 0; n < SETTLED; n += 1) engine.runtime.process(left, left, 0, BLOCK)
        engine.runtime.send({ event })
      }
      expect(play(patch, keys, true, act), event.type).toEqual(play(patch, keys, false, act))
    }
  })
})
