/** The settled plan of a patch, worked out once: what plays, what is checked and what is shown share it. */
import { CATALOGUE } from '../catalogue.ts'
import type { AssetSound } from '../describe/types.ts'
import { effectivePatch } from '../patch/macros.ts'
import type { Patch } from '../patch/types.ts'
import { compile, type CompileOptions, type CompileResult } from './compile.ts'
import type { Plan } from './plan.ts'
import { outputShape, type Shape } from './shapes.ts'

/** What a settled plan hangs on besides its patch. */
export type Settled = Pick<CompileOptions, 'sampleRate' | 'assets' | 'settings'>

const known = new WeakMap<Patch, { readonly options: Settled; readonly result: CompileResult }>()

const NO_ASSETS: ReadonlyMap<string, AssetSound> = new Map()

const isSame = (a: Settled, b: Settled): boolean => {
  const one = a.assets ?? NO_ASSETS,
    other = b.assets ?? NO_ASSETS
  return (
    (a.sampleRate ?? 48000) === (b.sampleRate ?? 48000) &&
    a.settings === b.settings &&
    (one === other || (one.size === other.size && [...one].every(([id, sound]) => other.get(id) === sound)))
  )
}

/** Compiles a patch, or gives back what came of it the last time; the plan is shared: nobody changes it. */
export const compiled = (patch: Patch, options: Settled = {}): CompileResult => {
  const heard = effectivePatch(patch),
    before = known.get(heard)
  if (before && isSame(before.options, options)) return before.result
  const result = compile(heard, options)
  known.set(heard, { options, result })
  return result
}

/** Voices and sides of every output of a plan, by name: `osc.saw`. */
export const shapesOf = (plan: Plan): Map<string, Shape> =>
  new Map(
    plan.modules.flatMap((module) =>
      (CATALOGUE.get(module.type)?.description.outputs ?? []).map((port): [string, Shape] => [
        `${module.id}.${port.name}`,
        outputShape(module, port),
      ]),
    ),
  )
