import { CATALOGUE } from '../catalogue.ts'
import { compile } from '../compile/compile.ts'
import type { Plan, PlanOp } from '../compile/plan.ts'
import type { AssetSound } from '../describe/types.ts'
import type { Patch } from '../patch/types.ts'
import { Engine } from './engine.ts'

/** What a module costs: share of one core, its adapters included; a loop stands under all its modules. */
export interface ModuleLoad {
  readonly ids: readonly string[]
  readonly share: number
}

export interface LoadOptions {
  /** Seconds, as finely as can be had. */
  readonly now: () => number
  readonly sampleRate?: number
  readonly seconds?: number
  /** Notes that sound while it is measured; a chord of as many voices as there are when left out. */
  readonly notes?: readonly number[]
  readonly assets?: ReadonlyMap<string, AssetSound>
}

/** Modules an op belongs to. */
const ownersOf = (op: PlanOp, plan: Plan): string[] => {
  if (op.kind === 'module') return [plan.modules[op.module]!.id]
  if (op.kind === 'adapter') return [plan.adapters[op.adapter]!.key.split('.')[0]!]
  return [...new Set(op.body.flatMap((inner) => ownersOf(inner, plan)))].filter((id) => !id.startsWith('~'))
}

/** Plays a patch for a while and times every call of it: the dearest first. */
export const moduleLoads = (
  kernels: WebAssembly.Module,
  patch: Patch,
  options: LoadOptions,
): ModuleLoad[] => {
  const rate = options.sampleRate ?? 48000,
    seconds = options.seconds ?? 1
  const engine = new Engine(kernels, rate, options.assets ? { assets: options.assets } : {})
  const applied = engine.apply(patch)
  const plan = applied.ok ? applied.value : undefined
  const result = plan ?? compile(patch, { sampleRate: rate })
  if (!plan)
    throw new Error(`The patch cannot be measured: ${'faults' in result ? result.faults[0]?.message : ''}`)
  const voices = Math.max(
    1,
    ...plan.modules
      .filter((module) => CATALOGUE.get(module.type)!.description.role === 'notes')
      .map((module) => module.voices),
  )
  const notes =
    options.notes && options.notes.length > 0
      ? options.notes
      : Array.from({ length: voices }, (_, n) => 48 + ((n * 5) % 36))
  notes.forEach((note, index) => {
    engine.runtime.send({ event: { type: 'on', note, velocity: 0.8, id: index + 1 } })
  })
  const left = new Float32Array(128),
    right = new Float32Array(128)
  for (let n = 0; n < 200; n += 1) engine.runtime.process(left, right, 0, 128)
  const times = new Float64Array(plan.ops.length)
  engine.runtime.timeOps(options.now, times)
  const blocks = Math.ceil((seconds * rate) / 128)
  for (let n = 0; n < blocks; n += 1) engine.runtime.process(left, right, 0, 128)
  const shares = new Map<string, { ids: readonly string[]; share: number }>()
  plan.ops.forEach((op, index) => {
    const ids = ownersOf(op, plan),
      key = ids.join(' '),
      found = shares.get(key) ?? { ids, share: 0 }
    found.share += times[index]! / ((blocks * 128) / rate)
    shares.set(key, found)
  })
  return [...shares.values()].sort((a, b) => b.share - a.share)
}
