/** A plan from a flat patch, in four stages: place, connect, cut and order. */
import type { Catalogue } from '../catalogue.ts'
import { tuningFor } from '../patch/tuning.ts'
import type { Patch } from '../patch/types.ts'
import { Before } from './before.ts'
import { connect } from './connect.ts'
import { Draft } from './draft.ts'
import type { FlatPatch } from './flatten.ts'
import type { CompileOptions } from './options.ts'
import { order } from './order.ts'
import { place } from './place.ts'
import type { Plan } from './plan.ts'
import { settingsOf } from './reach.ts'
import { noteOrigins, type Shape } from './shapes.ts'
import type { Source } from './source.ts'

export const build = (
  patch: Patch,
  flat: FlatPatch,
  shapes: ReadonlyMap<string, Shape>,
  catalogue: Catalogue,
  sampleRate: number,
  options: CompileOptions,
): Omit<Plan, 'latency' | 'wait'> => {
  const { places, signals: most } = place(flat, shapes, catalogue, sampleRate)
  const source: Source = {
    patch,
    flat,
    places,
    catalogue,
    sampleRate,
    options,
    settings: settingsOf(patch, options.settings),
    origins: noteOrigins(flat, catalogue),
    before: new Before(options, catalogue),
  }
  const draft = new Draft(most),
    pieces = Array.from(places.values(), (at) => connect(source, at))
  for (const piece of pieces) draft.addModule(piece)
  pieces.forEach(({ reads }, module) => {
    for (const read of reads) draft.addRead(module, read)
  })
  const numbers = new Map(draft.modules.map(({ id }, number) => [id, number]))
  for (const [guest, keeper] of flat.keepers) draft.follow(numbers.get(keeper)!, numbers.get(guest)!)
  const { ops, loops, inLoop } = order(draft, source)
  const { tuning } = tuningFor(patch)
  const { signals, wanted, params, adapters, modules, memoryBytes } = draft
  return {
    signals,
    wanted,
    inLoop,
    params,
    adapters,
    modules,
    ops,
    loops,
    tempo: patch.tempo ?? 120,
    ...(tuning ? { tuning } : {}),
    shadowed: [...flat.shadowed].sort(),
    memoryBytes,
  }
}
