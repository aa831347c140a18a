/** Costs against what descriptions state, in one run: ratios, because machines are noisy. */
import { PUBLIC_MODULES } from '../catalogue.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { ModuleDescription } from '../describe/types.ts'
import { Engine } from '../engine/engine.ts'
import type { Patch } from '../patch/types.ts'
import { RECORDINGS, surround } from '../testing/surround.ts'
import { moduleCosts } from './costs.ts'

const RATE = 48000,
  BLOCK = 128
/** Voice-samples of one piece of reference work. */
const REFERENCE_SAMPLES = 8 * BLOCK

export interface CostAgainstBound {
  readonly type: string
  /** Times the reference. */
  readonly times: number
  readonly bound: number
}

/** Nanoseconds of a voice-sample of the reference work: the least of some tries. */
const referenceCost = (kernels: WebAssembly.Module, now: () => number): number => {
  const { runtime } = new Engine(kernels, RATE)
  let least = Infinity
  for (let n = 0; n < 12; n += 1) {
    const start = now()
    for (let k = 0; k < 500; k += 1) runtime.work()
    least = Math.min(least, ((now() - start) * 1e9) / (500 * REFERENCE_SAMPLES))
  }
  return least
}

/** Every module against its bound; the reference is measured before and after each, and the better one counts. */
export const costsAgainstBounds = (
  kernels: WebAssembly.Module,
  now: () => number,
  seconds = 0.1,
): CostAgainstBound[] => {
  let before = referenceCost(kernels, now)
  return PUBLIC_MODULES.filter((module) => !module.flattened && module.role !== 'output').flatMap(
    (module) => {
      const [cost] = moduleCosts(kernels, now, seconds, [module])
      const after = referenceCost(kernels, now),
        reference = Math.min(before, after)
      before = after
      return [{ type: module.type, times: cost!.nanoseconds / reference, bound: module.bound }]
    },
  )
}

/** What comes in where nothing of the kind should: a source, and its size. */
const SIGNALS: readonly (readonly [name: string, from: string, size: number])[] = [
  ['a constant', 'one.out', 1e9],
  ['a constant', 'one.out', -1e9],
  ['steps', 'square.pulse', 1e9],
  ['noise', 'hiss.white', 1e9],
]
const BLOCKS = 12,
  TRIES = 3
/** Denormals, refills of tables and a busy machine together stay below this. */
const MOST_TIMES = 25

const endsOf = (module: ModuleDescription): string[] => [
  ...module.inputs.map((port) => port.name),
  ...module.params.filter(isSignalParam).map((param) => param.name),
]

/** The module as it is played, and a source of any size on one of its ends. */
const fed = (patch: Patch, end: string, from: string, size: number): Patch => ({
  ...patch,
  modules: [
    ...patch.modules,
    { id: 'one', type: 'value', params: { value: 1 } },
    { id: 'square', type: 'oscillator', params: { frequency: 100, tracking: false } },
    { id: 'hiss', type: 'noise' },
    { id: 'large', type: 'mix' },
  ],
  cables: [
    ...patch.cables,
    { from, to: 'large.in1', amount: Math.min(1e6, Math.abs(size)) },
    { from: 'large.out', to: `m.${end}`, amount: size / Math.min(1e6, Math.abs(size)) },
  ],
})

/** Seconds a block, the least of some tries. */
const costOf = (
  kernels: WebAssembly.Module,
  patch: Patch,
  module: ModuleDescription,
  now: () => number,
): number => {
  const engine = new Engine(kernels, RATE, { assets: RECORDINGS })
  for (const port of module.outputs) engine.layout.watchRing(`m.${port.name}`)
  const applied = engine.apply(patch)
  if (!applied.ok) throw new Error(applied.faults[0]!.message)
  const left = new Float32Array(BLOCK),
    right = new Float32Array(BLOCK)
  engine.runtime.send({ event: { type: 'on', note: 60, velocity: 1, id: 1 } })
  let least = Infinity
  for (let n = 0; n < TRIES; n += 1) {
    const start = now()
    for (let b = 0; b < BLOCKS; b += 1) engine.runtime.process(left, right, 0, BLOCK)
    least = Math.min(least, (now() - start) / BLOCKS)
  }
  return least
}

/** Inputs that make a module work out of all proportion: none should. */
export const dearInputs = (kernels: WebAssembly.Module, now: () => number): string[] =>
  PUBLIC_MODULES.filter((module) => !module.flattened && module.role !== 'output').flatMap((module) => {
    const patch = surround(module, { voices: 2, stereo: false })
    const usual = Math.max(5e-6, costOf(kernels, patch, module, now))
    return endsOf(module).flatMap((end) =>
      SIGNALS.flatMap(([name, from, size]) => {
        const times = costOf(kernels, fed(patch, end, from, size), module, now) / usual
        return times > MOST_TIMES * Math.max(1, (module.swarm ?? 0) / 4)
          ? [`${module.type}.${end} by ${name} of ${size}: ${times.toFixed(0)} times its usual`]
          : []
      }),
    )
  })
