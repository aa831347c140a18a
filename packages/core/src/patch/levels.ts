/** Levels of a patch: what stands on the bench itself, and what stands in each of its groups. */
import type { Draft } from 'immer'
import { patchIndex } from './index.ts'
import type { Cable, Patch, PatchModule } from './types.ts'
import { splitTarget } from './walk.ts'

type D = Draft<Patch>
type Part = Draft<PatchModule>

/** A list of modules with the cables between them, as it is written to. */
export interface Level {
  modules: Part[]
  cables: Draft<Cable>[]
}

/** Groups that a module stands in, the outermost first; none on the bench itself. */
export const groupsAround = (patch: Patch, id: string): string[] => {
  const { parent } = patchIndex(patch),
    found: string[] = []
  for (let group = parent.get(id); group; group = parent.get(group.id)) found.unshift(group.id)
  return found
}

const known = new WeakMap<Patch, Map<string, Patch>>()

/**
 * What stands in a group, as a patch of its own: the same modules and cables, with the frames and notes of the group.
 * Without a group, or with one that is not there, the patch itself.
 */
export const levelPatch = (patch: Patch, group: string | undefined): Patch => {
  const inside = group === undefined ? undefined : patchIndex(patch).module.get(group)?.inside
  if (group === undefined || !inside) return patch
  let levels = known.get(patch)
  if (!levels) known.set(patch, (levels = new Map()))
  let level = levels.get(group)
  if (!level) {
    const { modules, cables } = inside
    level = { ...patch, modules, cables, view: (inside as { readonly view?: unknown }).view ?? {} }
    levels.set(group, level)
  }
  return level
}

const searched = (modules: readonly Part[], id: string): Part | undefined => {
  const here = modules.find((module) => module.id === id)
  if (here) return here
  for (const { inside } of modules) {
    const found = inside && searched(inside.modules, id)
    if (found) return found
  }
  return undefined
}

/** A module to be written to, wherever it stands. */
export const moduleIn = (draft: D, id: string): Part | undefined => searched(draft.modules, id)

/** Every level, the bench itself first, groups before what stands in them. */
export const levelsOf = (draft: D): Level[] => {
  const found: Level[] = []
  const open = (level: Level): void => {
    found.push(level)
    for (const { inside } of level.modules) if (inside) open(inside)
  }
  open(draft)
  return found
}

/** The level that a module stands on. */
export const levelWith = (draft: D, id: string): Level | undefined =>
  levelsOf(draft).find(({ modules }) => modules.some((module) => module.id === id))

/** The level in a group; the bench itself without one. */
export const levelIn = (draft: D, group: string | undefined): Level =>
  (group === undefined ? undefined : moduleIn(draft, group)?.inside) ?? draft

/** A cable to be written to, on whatever level it lies. */
export const cableIn = (draft: D, id: string | undefined): Draft<Cable> | undefined => {
  if (id === undefined) return undefined
  for (const { cables } of levelsOf(draft)) {
    const found = cables.find((cable) => cable.id === id)
    if (found) return found
  }
  return undefined
}

/** Some modules to be written to, wherever they stand. */
export const modulesAmong = (draft: D, ids: ReadonlySet<string>): Part[] =>
  levelsOf(draft).flatMap(({ modules }) => modules.filter(({ id }) => ids.has(id)))

/** Every cable of a draft, by level. */
export const cablesAmong = (draft: D): Draft<Cable>[] => levelsOf(draft).flatMap(({ cables }) => cables)

/** Where a cable between two modules lies: on the innermost level that both stand on or below. */
export const levelBetween = (draft: D, from: string, to: string): Level => {
  const levels: Level[] = [draft]
  const has = ({ modules }: Level, id: string): boolean => searched(modules, id) !== undefined
  for (;;) {
    const deeper = levels.at(-1)!.modules.find(({ inside }) => inside && has(inside, from) && has(inside, to))
    if (!deeper?.inside) return levels.at(-1)!
    levels.push(deeper.inside)
  }
}

/** The full name of a row: those a group shows of what is in it bring the module's name along. */
export const rowTarget = (id: string, name: string): string => (name.includes('.') ? name : `${id}.${name}`)

/** A target as a card on some level has it: the row `osc.fine` of the group that `osc` stands in, or in a group of it. */
export const cardOf = (
  level: Patch,
  target: string,
): { readonly id: string; readonly name: string } | undefined => {
  const [id = '', name = ''] = splitTarget(target) ?? []
  const { parent, module } = patchIndex(level)
  if (!module.has(id)) return undefined
  let outer = parent.get(id)
  if (!outer) return { id, name }
  for (let next = parent.get(outer.id); next; next = parent.get(outer.id)) outer = next
  return { id: outer.id, name: target }
}

/** Puts modules where they belong, wherever they stand. */
export const placeModules = (
  draft: D,
  places: ReadonlyMap<string, { readonly x: number; readonly y: number }>,
): void => {
  for (const module of modulesAmong(draft, new Set(places.keys())))
    Object.assign(module, places.get(module.id))
}
