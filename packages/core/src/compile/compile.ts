import { CATALOGUE } from '../catalogue.ts'
import type { Fault, Patch } from '../patch/types.ts'
import { mib } from '../units/bytes.ts'
import { Builder, type CompileOptions } from './build.ts'
import { flatten, MOST_FEEDS } from './flatten.ts'
import type { Plan } from './plan.ts'
import { inferShapes } from './shapes.ts'

export { type CompileOptions, plainValue, seedOf } from './build.ts'

export type CompileResult =
  { readonly ok: true; readonly plan: Plan } | { readonly ok: false; readonly faults: readonly Fault[] }

/** Delay and sample memory a patch may take. */
export const MOST_MEMORY = 2 ** 30

/** Turns a checked patch into a plan. Pure: plain data in and out. */
export const compile = (patch: Patch, options: CompileOptions = {}): CompileResult => {
  const catalogue = options.catalogue ?? CATALOGUE
  const sampleRate = options.sampleRate ?? 48000
  const { retiring } = options
  const whole = retiring
    ? {
        ...patch,
        modules: [...patch.modules, ...retiring.modules],
        cables: [...patch.cables, ...retiring.cables],
      }
    : patch
  const flat = flatten(whole, catalogue)
  if (flat.overfull !== undefined)
    return {
      ok: false,
      faults: [
        {
          place: flat.overfull,
          message: `through buses and groups more than ${MOST_FEEDS} connections meet here; use fewer cables into or out of them`,
        },
      ],
    }
  const shapes = inferShapes(flat, catalogue, sampleRate)
  const plan = new Builder(
    whole,
    flat,
    shapes,
    catalogue,
    sampleRate,
    options,
    new Set((retiring?.modules ?? []).map((module) => module.id)),
  ).build()
  if (plan.memoryBytes > MOST_MEMORY) {
    const [largest] = [...plan.modules].sort((a, b) => b.auxBytes - a.auxBytes)
    return {
      ok: false,
      faults: [
        {
          place: largest!.id,
          message: `the patch needs ${mib(plan.memoryBytes)} of delay and sample memory, more than ${mib(MOST_MEMORY)}; ${largest!.id} alone takes ${mib(largest!.auxBytes)}. Set a smaller "max" or fewer voices`,
        },
      ],
    }
  }
  return { ok: true, plan }
}
