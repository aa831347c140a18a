import { applyPatches, enablePatches, type Draft, type Patch as Step, produceWithPatches } from 'immer'
import { CATALOGUE, type Catalogue } from '../catalogue.ts'
import type { Fault, ParamValue, Patch } from './types.ts'
import { ownerFaults } from './playing.ts'
import { meaningFaults } from './validate.ts'

enablePatches()

/** One edit: serialisable, with its exact inverse. Undo, autosave, engine and history all read this. */
export interface Change {
  /** What was done, for the history: "Connect Osc saw to Filter in". */
  readonly name: string
  readonly steps: readonly Step[]
  readonly inverse: readonly Step[]
  /** Changes of one gesture (a drag) share it and undo as one. */
  readonly gesture?: string
  /** What lay over the document before and after: moves of the moment, which undo takes back as well. */
  readonly moves?: { readonly before: Moves; readonly after: Moves }
}

/** Moves of the moment as plain data: by target, by module. */
export interface Moves {
  readonly values: Readonly<Record<string, ParamValue>>
  readonly data: Readonly<Record<string, Readonly<Record<string, unknown>>>>
  readonly bypass: Readonly<Record<string, boolean>>
}

export const NO_MOVES: Moves = { values: {}, data: {}, bypass: {} }

/** A step that changes nothing in the document: only what lies over it. */
export const movesChange = (name: string, before: Moves, after: Moves): Change => ({
  name,
  steps: [],
  inverse: [],
  moves: { before, after },
})

export type EditResult =
  | { readonly ok: true; readonly patch: Patch; readonly change: Change }
  | { readonly ok: false; readonly faults: readonly Fault[] }

/**
 * The one write path: make the change to a patch without faults, check what it touched, hand back both. Nothing is applied
 * when there is a fault.
 */
export const edit = (
  patch: Patch,
  name: string,
  recipe: (draft: Draft<Patch>) => void,
  options: { gesture?: string; catalogue?: Catalogue } = {},
): EditResult => {
  const [next, steps, inverse] = produceWithPatches(patch, recipe)
  const { faults: found } = meaningFaults(next, options.catalogue ?? CATALOGUE, patch)
  const faults = [...found, ...ownerFaults(patch, next)]
  if (faults.length > 0) return { ok: false, faults }
  return {
    ok: true,
    patch: next,
    change: { name, steps, inverse, ...(options.gesture === undefined ? {} : { gesture: options.gesture }) },
  }
}

export const applyChange = (patch: Patch, change: Change): Patch =>
  applyPatches(patch, change.steps as Step[])
export const revertChange = (patch: Patch, change: Change): Patch =>
  applyPatches(patch, change.inverse as Step[])

/** A free id made from a type: osc, osc2, osc3 … */
export const freshId = (taken: ReadonlySet<string>, type: string): string => {
  if (!taken.has(type)) return type
  let n = 2
  while (taken.has(`${type}${n}`)) n += 1
  return `${type}${n}`
}
