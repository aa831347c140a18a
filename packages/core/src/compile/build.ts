/** A plan from a flat patch, in four stages: place, connect, cut and order. */
import type { Catalogue } from '../catalogue.ts'
import { tuningFor } from '../patch/tuning.ts'
import type { Patch } from '../patch/types.ts'
import { Before } from './before.ts'
import { connect } from './connect.ts'
import { Draft, type Source } from './draft.ts'
import type { FlatPatch } from './flatten.ts'
import type { CompileOptions } from './options.ts'
import { order } from './order.ts'
import { place } from './place.ts'
import type { Plan } from './plan.ts'
import { settingsOf } from './reach.ts'
import { noteOrigins, type Shape } from './shapes.ts'

export const build = (
  patch: Patch,
  flat: FlatPatch,
  shapes: ReadonlyMap<string, Shape>,
  catalogue: Catalogue,
  sampleRate: number,
  options: CompileOptions,
): Plan => {
  const source: Source = {
    patch,
    flat,
    shapes,
    catalogue,
    sampleRate,
    options,
    settings: settingsOf(patch, options.settings),
    origins: noteOrigins(flat, catalogue),
    before: new Before(options, catalogue),
  }
  const draft = new Draft()
  place(draft, source)
  connect(draft, source)
  const { ops, loops } = order(draft, source)
  const { tuning } = tuningFor(patch)
  const { signals, params, adapters, modules, memoryBytes } = draft
  return {
    signals,
    params,
    adapters,
    modules,
    ops,
    loops,
    tempo: patch.tempo ?? 120,
    ...(tuning ? { tuning } : {}),
    shadowed: [...flat.shadowed],
    memoryBytes,
  }
}
