import { type Catalogue, CATALOGUE } from '../catalogue.ts'
import type { Fault, Patch } from '../patch/types.ts'
import { mib } from '../units/bytes.ts'
import { patchIndex } from '../patch/index.ts'
import { effectivePatch } from '../patch/macros.ts'
import { align, latencyOf } from './align.ts'
import { build } from './build.ts'
import { doubledKeeper } from './keepers.ts'
import { flatten, type FlatPatch, MOST_FEEDS } from './flatten.ts'
import type { CompileOptions } from './options.ts'
import type { Plan } from './plan.ts'
import { inferShapes } from './shapes.ts'

export { type CompileOptions, plainValue, type Retiring, seedOf } from './options.ts'

export type CompileResult =
  { readonly ok: true; readonly plan: Plan } | { readonly ok: false; readonly faults: readonly Fault[] }

/** Delay and sample memory a patch may take. */
export const MOST_MEMORY = 2 ** 30

/** Longest wait of a fade, in seconds. */
const MOST_WAIT = 0.1

/** Frames until all that is new and late is heard. */
const waitFor = (
  { modules }: FlatPatch,
  catalogue: Catalogue,
  sampleRate: number,
  { previous, retiring }: CompileOptions,
): number => {
  if (!previous) return 0
  const late = modules.filter(({ type }) => catalogue.get(type)!.description.latency)
  if (late.length === 0) return 0
  const known = new Set(previous.modules.map(({ id }) => id))
  return late.reduce((most, module) => {
    if (known.has(module.id) || retiring?.copies.has(module.id)) return most
    const frames = latencyOf(module, catalogue, sampleRate)
    return Math.max(most, Math.min(frames, Math.round(MOST_WAIT * sampleRate)))
  }, 0)
}

/** What keeps a valid patch from being played; undefined where nothing does. */
const structureFault = (patch: Patch, { overfull }: FlatPatch, catalogue: Catalogue): Fault | undefined =>
  overfull === undefined
    ? doubledKeeper(
        patchIndex(patch).modules.map(({ module }) => module),
        catalogue,
      )
    : {
        place: overfull,
        message: `through buses and groups more than ${MOST_FEEDS} connections meet here; use fewer cables into or out of them`,
      }

/** Turns a checked patch into a plan, as it is heard: macros have moved what they own. Pure: plain data in and out. */
export const compile = (given: Patch, options: CompileOptions = {}): CompileResult => {
  const patch = effectivePatch(given)
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
  const dissolved = flatten(whole, catalogue)
  const fault = structureFault(patch, dissolved, catalogue)
  if (fault) return { ok: false, faults: [fault] }
  const { flat, latency } = align(dissolved, catalogue, sampleRate)
  const shapes = inferShapes(flat, catalogue, sampleRate)
  // What fades has the shape it had: nothing tells it any more how many voices it ends up in.
  const before = new Map(
    (retiring ? (options.previous?.modules ?? []) : []).map((module) => [module.id, module]),
  )
  for (const { id } of retiring?.modules ?? []) {
    const old = before.get(retiring!.copies.get(id) ?? id)
    if (old) shapes.set(id, { voices: old.voices, sides: old.sides })
  }
  const plan = {
    ...build(whole, flat, shapes, catalogue, sampleRate, options),
    latency,
    wait: waitFor(flat, catalogue, sampleRate, options),
  }
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
