/** Names that one module of a patch may have alone: of memory that others look into. */
import type { Draft } from 'immer'
import { CATALOGUE } from '../catalogue.ts'
import type { SharedMemory } from '../describe/types.ts'
import { own } from '../units/own.ts'
import { freshId } from './document.ts'
import type { Patch, PatchModule } from './types.ts'
import { everyModule } from './walk.ts'

type Part = Pick<PatchModule, 'type' | 'params'>
const sharing = ({ type }: Part): SharedMemory | undefined => CATALOGUE.get(type)?.description.shares

/** Name under which a module keeps or seeks memory. */
const nameOf = (module: Part): string => {
  const { name } = sharing(module)!
  return String(own(module.params, name) ?? CATALOGUE.get(module.type)!.params.get(name)!.default)
}

/**
 * Gives modules that came into a patch a name of their own where they keep memory under one that is taken; those that
 * came with them and look for it follow.
 */
export const nameAfresh = (draft: Draft<Patch>, came: readonly string[]): void => {
  const fresh = new Set(came),
    modules = everyModule(draft as Patch).map(({ module }) => module as Draft<PatchModule>)
  const keepers = modules.filter((module) => sharing(module as PatchModule)?.as === 'keeper')
  const taken = new Set(
    keepers.filter(({ id }) => !fresh.has(id)).map((module) => nameOf(module as PatchModule)),
  )
  const rename = (module: Draft<PatchModule>, name: string): void => {
    Object.assign(module, { params: { ...module.params, [sharing(module as PatchModule)!.name]: name } })
  }
  for (const keeper of keepers) {
    if (!fresh.has(keeper.id)) continue
    const before = nameOf(keeper as PatchModule)
    if (taken.has(before)) {
      const now = freshId(taken, before)
      for (const guest of modules)
        if (
          fresh.has(guest.id) &&
          sharing(guest as PatchModule)?.as === 'guest' &&
          nameOf(guest as PatchModule) === before
        )
          rename(guest, now)
      rename(keeper, now)
    }
    taken.add(nameOf(keeper as PatchModule))
  }
}
