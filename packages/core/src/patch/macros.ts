/** What macros mean: who owns a target, in what order macros move each other, and what they give their targets. */
import { exactCurve } from '../describe/points.ts'
import { topological } from './graph.ts'
import { patchIndex } from './index.ts'
import { overlaid } from './overlay.ts'
import { targetOf, unmovable, wayOf } from './targets.ts'
import type { Macro, MacroTarget, ParamValue, Patch } from './types.ts'

interface Owned {
  readonly macro: Macro
  readonly target: MacroTarget
}

interface Ownership {
  /** The one macro that moves each target: the last in the file that names it. */
  readonly owner: ReadonlyMap<string, Owned>
  /** Targets each macro owns, by its id. */
  readonly owned: ReadonlyMap<string, readonly MacroTarget[]>
  /** Targets that more than one names, with all their places. */
  readonly shared: ReadonlyMap<string, readonly { readonly macro: Macro; readonly place: string }[]>
}

const known = new WeakMap<Patch, Ownership>()

const macroOf = (target: string): string | undefined =>
  target.startsWith('macro:') ? target.slice(6) : undefined

const ownershipIn = (patch: Patch): Ownership => {
  const macros = [...patchIndex(patch).macro.values()]
  const owner = new Map<string, Owned>()
  const named = new Map<string, { macro: Macro; place: string }[]>()
  const places = new Map((patch.macros ?? []).map((macro, index) => [macro, index]))
  for (const macro of macros)
    (macro.targets ?? []).forEach((target, index) => {
      owner.set(target.param, { macro, target })
      const list = named.get(target.param),
        item = { macro, place: `macros[${places.get(macro)}].targets[${index}].param` }
      if (list) list.push(item)
      else named.set(target.param, [item])
    })
  const owned = new Map<string, MacroTarget[]>()
  for (const { macro, target } of owner.values()) {
    const list = owned.get(macro.id)
    if (list) list.push(target)
    else owned.set(macro.id, [target])
  }
  return { owner, owned, shared: new Map([...named].filter(([, list]) => list.length > 1)) }
}

/** Who owns what in a patch; made once for it. */
export const ownership = (patch: Patch): Ownership => {
  let found = known.get(patch)
  if (!found) {
    found = ownershipIn(patch)
    known.set(patch, found)
  }
  return found
}

const orders = new WeakMap<Patch, readonly Macro[]>()

/** All macros of a patch that has no ring of them, each after those that move it. */
const inOrder = (patch: Patch): readonly Macro[] => {
  const before = orders.get(patch)
  if (before) return before
  const macros = [...patchIndex(patch).macro.values()],
    { owned } = ownership(patch)
  const numbers = new Map(macros.map((macro, index) => [macro.id, index]))
  const edges = macros.map((macro) =>
    (owned.get(macro.id) ?? []).flatMap(({ param }) => numbers.get(macroOf(param) ?? '') ?? []),
  )
  const order = topological([...macros.keys()], edges).map((index) => macros[index]!)
  orders.set(patch, order)
  return order
}

/** The value a macro takes when it is moved: within 0…1, on its steps. */
export const steppedValue = (macro: Macro, value: number): number => {
  const held = Math.min(1, Math.max(0, value))
  const { step } = macro
  return step !== undefined && step > 0 ? Math.min(1, Math.round(held / step) * step) : held
}

/** What a macro at a value gives one of its targets; undefined where it can give nothing. */
export const givenBy = (patch: Patch, target: MacroTarget, value: number): ParamValue | undefined => {
  const found = targetOf(patch, target.param)
  if (unmovable(found, target.param) !== undefined) return undefined
  return wayOf(found, target.from, target.to)?.at(exactCurve(value, target.curve ?? 0))
}

/**
 * What moves of macros give: the macros themselves, the macros they move, and all targets they own. Each macro moves
 * once, after those that move it.
 */
export const macroMoves = (patch: Patch, moves: ReadonlyMap<string, number>): Map<string, ParamValue> => {
  const { owned } = ownership(patch)
  const values = new Map(moves),
    given = new Map<string, ParamValue>()
  for (const macro of inOrder(patch)) {
    const moved = values.get(macro.id)
    if (moved === undefined) continue
    const value = steppedValue(macro, moved)
    given.set(`macro:${macro.id}`, value)
    for (const target of owned.get(macro.id) ?? []) {
      const inner = macroOf(target.param),
        result = givenBy(patch, target, value)
      if (result === undefined) continue
      if (inner === undefined) given.set(target.param, result)
      // A macro that is moved by hand at the same time stays where the hand puts it.
      else if (!moves.has(inner)) values.set(inner, Number(result))
    }
  }
  return given
}

const effective = new WeakMap<Patch, Patch>()

/** A patch whose values are what is heard: nothing lies over it any more. */
export const asEffective = (patch: Patch): Patch => {
  effective.set(patch, patch)
  return patch
}

/** The patch as it is heard when it is loaded: macros have moved what they own. The same for one that is already so. */
export const effectivePatch = (patch: Patch): Patch => {
  const before = effective.get(patch)
  if (before) return before
  if (!patch.macros || patch.macros.length === 0) return asEffective(patch)
  const { owner } = ownership(patch)
  const roots = [...patchIndex(patch).macro.values()].filter(({ id }) => !owner.has(`macro:${id}`))
  const values = macroMoves(patch, new Map(roots.map(({ id, value }) => [id, value])))
  const made = asEffective(values.size > 0 ? overlaid(patch, { values }) : patch)
  effective.set(patch, made)
  return made
}
