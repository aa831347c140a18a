/** Modules of one's own: groups that are kept, put into patches again, and replaced where they were put. */
import type { Draft } from 'immer'
import { cableIds, dropTargets, moduleIds } from './edits.ts'
import { freshId } from './document.ts'
import { descriptionOf, faceOf } from './groups.ts'
import { levelsOf, moduleIn } from './levels.ts'
import { own } from '../units/own.ts'
import type { Patch, PatchModule } from './types.ts'
import { everyModule, renamedEnd, splitTarget } from './walk.ts'

type D = Draft<Patch>
type Part = Draft<PatchModule>

/** Id under which the group is kept as a module of one's own; undefined where it is not. */
export const ownOf = (module: PatchModule): string | undefined =>
  module.type === 'group' && typeof module['own'] === 'string' ? module['own'] : undefined

/** A group as it is kept: without a place and without cables, and with the id it is kept under. */
export const asOwn = (group: PatchModule, id: string, name: string): PatchModule => {
  const { x: _, y: __, ...rest } = group
  return { ...rest, label: name, own: id }
}

/** What a module inside is known by in every copy of its group: its type, its name, and the how-manieth of these it is. */
const keysOf = (group: PatchModule): Map<string, PatchModule> => {
  const found = new Map<string, PatchModule>()
  for (const { module } of everyModule({ modules: group.inside?.modules ?? [] })) {
    let n = 1
    const key = (): string => `${module.type} ${module.label ?? ''} ${n}`
    while (found.has(key())) n += 1
    found.set(key(), module)
  }
  return found
}

/** Names everything inside afresh, by the names it has in the copy it replaces. */
const renameInside = (module: Part, names: ReadonlyMap<string, string>, freshCable: () => string): void => {
  for (const inner of module.inside?.modules ?? []) {
    inner.id = names.get(inner.id) ?? inner.id
    renameInside(inner, names, freshCable)
  }
  for (const cable of module.inside?.cables ?? []) {
    cable.id = freshCable()
    cable.from = renamedEnd(cable.from, names)
    cable.to = renamedEnd(cable.to, names)
  }
  const { face } = module as { face?: { param: string }[] }
  if (Array.isArray(face)) for (const row of face) row.param = renamedEnd(row.param, names)
}

/** What a copy shows outside is set there: it keeps its values. */
const settingsOf = (group: PatchModule): Map<string, [name: string, value: unknown][]> => {
  const inside = new Map(
    everyModule({ modules: group.inside?.modules ?? [] }).map(({ module }) => [module.id, module]),
  )
  const found = new Map<string, [string, unknown][]>()
  for (const { param } of faceOf(group)) {
    const [id = '', name = ''] = splitTarget(param) ?? []
    const value = own(inside.get(id)?.params, name)
    if (value !== undefined) found.set(id, [...(found.get(id) ?? []), [name, value]])
  }
  return found
}

/** Ids for what comes into a group: of what was there under the same key, or new ones. */
const namesFor = (
  draft: D,
  before: ReadonlyMap<string, PatchModule>,
  now: ReadonlyMap<string, PatchModule>,
): Map<string, string> => {
  const old = new Set([...before.values()].map((module) => module.id))
  const taken = new Set([...moduleIds(draft as Patch)].filter((other) => !old.has(other)))
  const names = new Map<string, string>()
  for (const [key, module] of now) {
    const kept = before.get(key)?.id
    if (kept === undefined) continue
    names.set(module.id, kept)
    taken.add(kept)
  }
  for (const module of now.values()) {
    if (names.has(module.id)) continue
    const fresh = freshId(taken, module.id.replace(/\d+$/, '') || module.id)
    names.set(module.id, fresh)
    taken.add(fresh)
  }
  return names
}

/**
 * Puts in a group what another one holds. Its place, its name, its cables where the ports are still there, and the values of
 * what it shows outside stay; modules inside that are the same in both keep their ids, and with them what moves them.
 */
export const replaceInside = (draft: D, id: string, by: PatchModule): void => {
  const group = moduleIn(draft, id)
  if (!group?.inside || !by.inside) return
  const before = keysOf(group as PatchModule),
    settings = settingsOf(group as PatchModule)
  const old = new Set([...before.values()].map((module) => module.id))
  const names = namesFor(draft, before, keysOf(by))
  const copy = JSON.parse(JSON.stringify({ inside: by.inside, face: by['face'] ?? [] })) as Part
  renameInside(copy, names, cableIds(draft as Patch))
  const perName = by.params?.['per']
  Object.assign(group, copy, {
    params: { ...group.params, ...(perName === undefined ? {} : { per: perName }) },
  })
  if (ownOf(by) !== undefined) Object.assign(group, { own: ownOf(by) })
  for (const [module, values] of settings) {
    const inner = moduleIn(draft, module)
    if (inner) inner.params = { ...inner.params, ...(Object.fromEntries(values) as PatchModule['params']) }
  }
  dropLost(draft, id, old)
}

/** Cables to ports that are gone go with them, and what moved modules that are gone. */
const dropLost = (draft: D, id: string, old: ReadonlySet<string>): void => {
  const group = moduleIn(draft, id) as PatchModule
  const { inputs, outputs } = descriptionOf(JSON.parse(JSON.stringify(group)) as PatchModule)!
  const there = moduleIds(draft as Patch)
  const isThere = (end: string, ports: readonly { readonly name: string }[]): boolean => {
    const [module = '', name = ''] = splitTarget(end) ?? []
    return module === id ? ports.some((port) => port.name === name) : there.has(module)
  }
  const lost = new Set<string | undefined>()
  for (const level of levelsOf(draft)) {
    const gone = level.cables.filter((cable) => !isThere(cable.from, outputs) || !isThere(cable.to, inputs))
    for (const cable of gone) lost.add(cable.id)
    if (gone.length > 0) level.cables = level.cables.filter((cable) => !gone.includes(cable))
  }
  dropTargets(
    draft,
    (target) =>
      (old.has(splitTarget(target)?.[0] ?? '') && !there.has(splitTarget(target)![0])) ||
      (target.startsWith('cable:') && lost.has(target.slice(6))),
  )
}

/** Groups of a patch that are copies of the same module of one's own. */
export const copiesOf = (patch: Patch, id: string): string[] =>
  everyModule(patch).flatMap(({ module }) => (ownOf(module) === id ? [module.id] : []))
