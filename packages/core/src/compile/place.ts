/** First stage: every module with its shape, and the numbers of its signals and parameters, so that cables can point anywhere. */
import type { Catalogue } from '../catalogue.ts'
import type { PatchModule } from '../patch/types.ts'
import { type Facts, factsOf } from './facts.ts'
import type { FlatPatch } from './flatten.ts'
import type { Shape } from './shapes.ts'

export interface Place {
  readonly module: PatchModule
  readonly facts: Facts
  readonly shape: Shape
  /** Numbers of its first signal and its first parameter in the plan. */
  readonly signal: number
  readonly param: number
}

const known = new WeakMap<PatchModule, Place>()

/** The very place of an earlier plan, where it is the same. */
const placeAt = (place: Place): Place => {
  const { module, facts, shape, signal, param } = place,
    last = known.get(module)
  if (
    last &&
    last.facts === facts &&
    last.signal === signal &&
    last.param === param &&
    last.shape.voices === shape.voices &&
    last.shape.sides === shape.sides
  )
    return last
  known.set(module, place)
  return place
}

/** Modules by id, in the order of the plan. */
export const place = (
  flat: FlatPatch,
  shapes: ReadonlyMap<string, Shape>,
  catalogue: Catalogue,
  sampleRate: number,
): { readonly places: Map<string, Place>; readonly signals: number } => {
  const places = new Map<string, Place>()
  let signal = 0,
    param = 0
  for (const module of flat.modules) {
    const facts = factsOf(module, catalogue.get(module.type)!, sampleRate)
    places.set(module.id, placeAt({ module, facts, shape: shapes.get(module.id)!, signal, param }))
    signal += facts.form.signals
    param += facts.params.length
  }
  return { places, signals: signal }
}
