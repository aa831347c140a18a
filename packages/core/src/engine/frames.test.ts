/** Loops of one frame: the short forms of modules and adapters against the general ones. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { compile } from '../compile/compile.ts'
import type { ModuleDescription } from '../describe/types.ts'
import { KERNEL_NAMES } from '../generated/kernelNames.ts'
import { NO_FUNCTION } from '../kernels/abi.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'
import { addCable, dice, type Roll } from '../testing/edits.ts'
import { testKernels } from '../testing/kernels.ts'
import { Layout } from './layout.ts'
import { Runtime } from './runtime.ts'

const RATE = 48000
const isShort = (name: string): boolean => /(Ready|Frame)$/.test(name)
/** Types with a short form of their own that a patch may hold. */
const SHORT = [...new Set(KERNEL_NAMES.filter(isShort).map((name) => name.split('.')[0]!))].filter(
  (type) => type !== 'unitdelay',
)
const INPUT: Readonly<Record<string, string>> = { mix: 'in2' }
const OUTPUT: Readonly<Record<string, string>> = { filter: 'band' }

/** Renders a patch; without its short forms everything in a loop runs by the general function, a frame at a time. */
const play = (patch: Patch, withShort: boolean): Float32Array => {
  const runtime = new Runtime(testKernels(), RATE),
    { facts } = runtime
  const [run] = facts.adapterFunctions
  const layout = new Layout(
    withShort
      ? facts
      : {
          ...facts,
          adapterFunctions: [run, NO_FUNCTION, NO_FUNCTION],
          functions: facts.functions.map((number, at) => (isShort(KERNEL_NAMES[at]!) ? NO_FUNCTION : number)),
        },
    RATE,
  )
  const result = compile(patch, { sampleRate: RATE })
  if (!result.ok) throw new Error(result.faults[0]!.message)
  expect(result.plan.ops.some(({ kind }) => kind === 'loop')).toBe(true)
  runtime.load(layout.next(result.plan))
  ;[50, 57, 62].forEach((note, n) => {
    runtime.schedule(40 + 900 * n, { type: 'on', note, velocity: 0.8, id: n + 1 })
  })
  runtime.schedule(3000, { type: 'off', note: 57, velocity: 0, id: 2 })
  const left = new Float32Array(4800),
    right = new Float32Array(4800)
  for (let done = 0, n = 0; done < left.length; n += 1) {
    const length = Math.min(1 + ((n * 37) % 128), left.length - done)
    runtime.process(left, right, done, length)
    done += length
  }
  return left
}

/** Words and some values of a module, thrown. */
const settings = ({ params }: ModuleDescription, roll: Roll): Record<string, string | number> =>
  Object.fromEntries(
    params.flatMap((param): [string, string | number][] => {
      if (param.kind === 'choice') return [[param.name, param.choices[roll(param.choices.length)]!]]
      if (param.kind !== 'number' || roll(3) > 0) return []
      return [[param.name, param.min + (param.max - param.min) * (roll(100) / 100) * 0.6]]
    }),
  )

/** A ring of modules with short forms, moved by everything outside it and in it. */
const ring = (roll: Roll): Patch => {
  const members = Array.from({ length: 2 + roll(3) }, (_, n): PatchModule => {
    const type = SHORT[roll(SHORT.length)]!
    return { id: `r${n}`, type, params: settings(CATALOGUE.get(type)!.description, roll) }
  })
  const next = (n: number): PatchModule => members[(n + 1) % members.length]!
  const result = checkPatch({
    format: 'ypsilon/patch',
    version: 1,
    modules: [
      { id: 'n', type: 'notes', params: { voices: 1 + roll(6), mode: 'poly' } },
      { id: 'o', type: 'oscillator' },
      { id: 'l', type: 'lfo', params: { rate: 30 } },
      ...members,
      { id: 'out', type: 'output', params: { level: -12 } },
    ],
    cables: [
      { from: 'n.pitch', to: 'o.pitch' },
      { from: 'o.saw', to: `r0.${members[0]!.type === 'mix' ? 'in1' : 'in'}`, amount: 0.4 },
      ...members.map(({ id, type }, n) => ({
        id: `ring${n}`,
        from: `${id}.${OUTPUT[type] ?? 'out'}`,
        to: `${next(n).id}.${INPUT[next(n).type] ?? 'in'}`,
        amount: roll(2) === 0 ? 0.3 : 0.9,
      })),
      { from: `r0.${OUTPUT[members[0]!.type] ?? 'out'}`, to: 'out.in' },
    ],
  })
  if (!result.ok)
    throw new Error(result.faults.map(({ place, message }) => `${place}: ${message}`).join('\n'))
  let patch = result.value
  for (let n = 0; n < roll(6); n += 1) patch = addCable(patch, roll, n)
  return patch
}

describe('a loop of one frame', () => {
  it('has short forms to look at', () => {
    expect(SHORT.length).toBeGreaterThan(2)
  })

  it('gives the same samples by short forms as by the general ones', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 2 ** 31 - 1 }), (seed) => {
        const patch = ring(dice(seed))
        const short = play(patch, true)
        expect(short.every(Number.isFinite)).toBe(true)
        expect(play(patch, false)).toEqual(short)
      }),
      { numRuns: 60, endOnFailure: true },
    )
  })
})
