/**
 * A sample costs the same whatever comes in: no input, however large, sudden or noisy, may make a module work longer than
 * some times its usual. Time is compared within one run, the least of several tries; a cost in proportion to the input
 * would be off by thousands.
 */
import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { ModuleDescription } from '../describe/types.ts'
import { Engine } from '../engine/engine.ts'
import type { Patch } from '../patch/types.ts'
import { testKernels } from '../testing/kernels.ts'
import { surround } from '../testing/surround.ts'

const MODULES = PUBLIC_MODULES.filter((module) => !module.flattened && module.role !== 'output')
const BLOCKS = 12,
  TRIES = 3
/** Denormals, refills of tables and a busy machine together stay below this. */
const MOST = 25

/** What comes in: a source and how often a second it jumps. */
const SIGNALS: readonly (readonly [name: string, from: string, size: number])[] = [
  ['a constant', 'one.out', 1e9],
  ['a constant', 'one.out', -1e9],
  ['steps', 'square.pulse', 1e9],
  ['noise', 'hiss.white', 1e9],
]

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

/** Milliseconds a block, the least of some tries. */
const costOf = (patch: Patch, module: ModuleDescription): number => {
  const engine = new Engine(testKernels(), 48000)
  for (const port of module.outputs) engine.layout.watchRing(`m.${port.name}`)
  const applied = engine.apply(patch)
  if (!applied.ok) throw new Error(applied.faults[0]!.message)
  const left = new Float32Array(128),
    right = new Float32Array(128)
  engine.runtime.send({ event: { type: 'on', note: 60, velocity: 1, id: 1 } })
  let least = Infinity
  for (let n = 0; n < TRIES; n += 1) {
    const start = performance.now()
    for (let b = 0; b < BLOCKS; b += 1) engine.runtime.process(left, right, 0, 128)
    least = Math.min(least, (performance.now() - start) / BLOCKS)
  }
  return least
}

describe('constant cost', () => {
  it.each(MODULES.map((module) => [module.type, module] as const))('%s', (_type, module) => {
    const patch = surround(module, { voices: 2, stereo: false })
    const usual = Math.max(0.005, costOf(patch, module))
    const dear: string[] = []
    for (const end of endsOf(module))
      for (const [name, from, size] of SIGNALS) {
        const ratio = costOf(fed(patch, end, from, size), module) / usual
        if (ratio > MOST) dear.push(`${end} by ${name} of ${size}: ${ratio.toFixed(0)} times`)
      }
    expect(dear).toEqual([])
  })
})
