/** Modules taken along as text: copied, cut, and pasted into any patch. A clip is a small patch without a name. */
import type { Draft } from 'immer'
import { CATALOGUE } from '../catalogue.ts'
import { freshId } from './document.ts'
import { cableIds, moduleIds } from './edits.ts'
import { isFormula, referencesOf, renamedFormula } from './formulas.ts'
import { bringAssets, namedAssets } from './assets.ts'
import { levelIn } from './levels.ts'
import { isPort } from './ports.ts'
import { nameAfresh } from './shared.ts'
import type { Cable, Fault, Patch, PatchModule } from './types.ts'
import { PATCH_VERSION } from './types.ts'
import { nestingFault, shapeFaults } from './schema.ts'
import { endsOf, renamedEnd } from './walk.ts'
import { append } from '../units/append.ts'

export interface Clip {
  readonly modules: readonly PatchModule[]
  readonly cables: readonly Cable[]
  /** Recordings and tables that the modules name, as their patch knows them. */
  readonly assets?: Readonly<Record<string, unknown>>
}

const FORMAT = 'ypsilon/clip'

/** Some modules with the cables between them, and what they name of the patch's assets. */
export const clipOf = (
  patch: Pick<Patch, 'modules' | 'cables'> & { readonly assets?: unknown },
  ids: ReadonlySet<string>,
): Clip => {
  const modules = patch.modules.filter(({ id }) => ids.has(id)),
    named = namedAssets(modules)
  const assets = Object.entries((patch.assets ?? {}) as Record<string, unknown>).filter(([id]) =>
    named.has(id),
  )
  return {
    modules,
    cables: patch.cables.filter((cable) => {
      const { fromModule, toModule } = endsOf(cable)
      return ids.has(fromModule) && ids.has(toModule)
    }),
    ...(assets.length > 0 ? { assets: Object.fromEntries(assets) } : {}),
  }
}

export const clipText = (clip: Clip): string =>
  `${JSON.stringify({ format: FORMAT, version: PATCH_VERSION, ...clip }, null, 2)}\n`

export type ReadClip =
  | { readonly ok: true; readonly clip: Clip }
  /** No faults: the text is something else. */
  | { readonly ok: false; readonly faults: readonly Fault[] }

/** Reads what was copied: a clip, or a whole patch. Its shape is checked as a file's is; faults name their places. */
export const readClip = (text: string): ReadClip => {
  let value: { readonly format?: unknown } | null
  try {
    value = JSON.parse(text) as typeof value
  } catch {
    return { ok: false, faults: [] }
  }
  const isClip = value?.format === FORMAT
  if (!isClip && value?.format !== 'ypsilon/patch') return { ok: false, faults: [] }
  // What its formulas name may stand in the patch it comes to: that is looked at there.
  const patch = { cables: [], ...value, format: 'ypsilon/patch' },
    deep = nestingFault(patch)
  const faults = deep ? [deep] : shapeFaults(patch)
  return faults.length > 0 ? { ok: false, faults } : { ok: true, clip: patch as unknown as Clip }
}

/** Ids of a module and of all inside it, new where they are taken. */
const renamedInside = (module: Draft<PatchModule>, taken: Set<string>, names: Map<string, string>): void => {
  const fresh = freshId(taken, CATALOGUE.get(module.type)?.description.short ?? module.type)
  const id = taken.has(module.id) ? fresh : module.id
  taken.add(id)
  names.set(module.id, id)
  module.id = id
  for (const inner of module.inside?.modules ?? []) renamedInside(inner, taken, names)
}

/** Formulas that name what came along name it by its new name; cables and faces of groups as well. */
const renamedWithin = (
  module: Draft<PatchModule>,
  names: ReadonlyMap<string, string>,
  freshCable: () => string,
): void => {
  for (const [name, value] of Object.entries(module.params ?? {}))
    if (isFormula(value)) Object.assign(module.params!, { [name]: renamedFormula(value, names) })
  for (const inner of module.inside?.modules ?? []) renamedWithin(inner, names, freshCable)
  for (const cable of module.inside?.cables ?? []) {
    cable.id = freshCable()
    cable.from = renamedEnd(cable.from, names)
    cable.to = renamedEnd(cable.to, names)
  }
  const { face } = module as { face?: { param?: unknown }[] }
  for (const row of Array.isArray(face) ? face : [])
    if (typeof row.param === 'string') row.param = renamedEnd(row.param, names)
}

/** Fields whose formula names what is not in the patch go back to their default. */
const withoutLost = (draft: Draft<Patch>, modules: readonly Draft<PatchModule>[]): void => {
  const there = moduleIds(draft as Patch),
    macros = new Set((draft.macros ?? []).map(({ id }) => `macro:${id}`))
  const isThere = (target: string): boolean => macros.has(target) || there.has(target.split('.')[0]!)
  for (const module of modules) {
    const kept = Object.entries(module.params ?? {}).filter(
      ([, value]) => !isFormula(value) || referencesOf(value).every(isThere),
    )
    if (module.params) module.params = Object.fromEntries(kept)
  }
}

/**
 * Puts a clip into a patch, or into one of its groups, moved by a way. Ports of groups have no meaning on the bench itself:
 * they stay behind, with their cables.
 *
 * @returns The ids its modules have there.
 */
export const pasteClip = (
  draft: Draft<Patch>,
  clip: Clip,
  dx: number,
  dy: number,
  group?: string,
): string[] => {
  const taken = moduleIds(draft as Patch),
    names = new Map<string, string>(),
    freshCable = cableIds(draft as Patch),
    level = levelIn(draft, group)
  const isKept = (module: PatchModule): boolean => level !== draft || !isPort(module)
  const modules = JSON.parse(JSON.stringify(clip.modules.filter(isKept))) as Draft<PatchModule>[]
  for (const module of modules) {
    renamedInside(module, taken, names)
    module.x = (module.x ?? 0) + dx
    module.y = (module.y ?? 0) + dy
  }
  for (const module of modules) renamedWithin(module, names, freshCable)
  bringAssets(draft, modules, clip.assets ?? {})
  append(level.modules, modules)
  for (const cable of clip.cables) {
    const { fromModule, toModule } = endsOf(cable)
    if (!names.has(fromModule) || !names.has(toModule)) continue
    level.cables.push({
      ...(JSON.parse(JSON.stringify(cable)) as Draft<Cable>),
      id: freshCable(),
      from: renamedEnd(cable.from, names),
      to: renamedEnd(cable.to, names),
    })
  }
  withoutLost(draft, modules)
  const ids = modules.map(({ id }) => id)
  nameAfresh(draft, [...names.values()])
  return ids
}
