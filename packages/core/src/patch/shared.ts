/** Names that one module of a patch may have alone: of memory that others look into. */
import type { Draft } from 'immer'
import { type Catalogue, CATALOGUE } from '../catalogue.ts'
import type { SharedMemory } from '../describe/types.ts'
import { own } from '../units/own.ts'
import { freshId } from './document.ts'
import type { Patch, PatchModule } from './types.ts'
import { everyModule } from './walk.ts'

type Part = Pick<PatchModule, 'type' | 'params'>

/** Name under which a module keeps memory or looks for it; undefined where it does not. */
export const sharedName = (
  { type, params }: Part,
  as: SharedMemory['as'],
  catalogue: Catalogue = CATALOGUE,
): string | undefined => {
  const entry = catalogue.get(type),
    shares = entry?.description.shares
  return shares?.as === as
    ? String(own(params, shares.name) ?? entry!.params.get(shares.name)!.default)
    : undefined
}

/**
 * Gives modules that came into a patch a name of their own where they keep memory under one that is taken; those that
 * came with them and look for it follow.
 */
export const nameAfresh = (draft: Draft<Patch>, came: readonly string[]): void => {
  const fresh = new Set(came),
    modules = everyModule(draft as Patch).map(({ module }) => module as Draft<PatchModule>)
  const nameAs = (module: Draft<PatchModule>, as: SharedMemory['as']): string | undefined =>
    sharedName(module as PatchModule, as)
  const keepers = modules.filter((module) => nameAs(module, 'keeper') !== undefined)
  const taken = new Set(keepers.filter(({ id }) => !fresh.has(id)).map((module) => nameAs(module, 'keeper')!))
  const rename = (module: Draft<PatchModule>, name: string): void => {
    const { name: param } = CATALOGUE.get(module.type)!.description.shares!
    Object.assign(module, { params: { ...module.params, [param]: name } })
  }
  for (const keeper of keepers) {
    if (!fresh.has(keeper.id)) continue
    const before = nameAs(keeper, 'keeper')!,
      now = freshId(taken, before)
    taken.add(now)
    if (now === before) continue
    for (const guest of modules)
      if (fresh.has(guest.id) && nameAs(guest, 'guest') === before) rename(guest, now)
    rename(keeper, now)
  }
}
