/** Memory that modules share under a name: who keeps it, and who looks into it. */
import type { Catalogue } from '../catalogue.ts'
import type { Fault, PatchModule } from '../patch/types.ts'
import { sharedName } from '../patch/shared.ts'

/** Keepers by name, the first of each. */
const byName = (modules: readonly PatchModule[], catalogue: Catalogue): Map<string, string> => {
  const keepers = new Map<string, string>()
  for (const module of modules) {
    const name = sharedName(module, 'keeper', catalogue)
    if (name !== undefined && !keepers.has(name)) keepers.set(name, module.id)
  }
  return keepers
}

/** Guests by id, with the keeper of the name they seek; those whose name nobody keeps are left out. */
export const keepersOf = (modules: readonly PatchModule[], catalogue: Catalogue): Map<string, string> => {
  const keepers = byName(modules, catalogue),
    found = new Map<string, string>()
  for (const module of modules) {
    const name = sharedName(module, 'guest', catalogue),
      keeper = name === undefined ? undefined : keepers.get(name)
    if (keeper !== undefined) found.set(module.id, keeper)
  }
  return found
}

/** The first keeper whose name another one has already. */
export const doubledKeeper = (modules: readonly PatchModule[], catalogue: Catalogue): Fault | undefined => {
  const keepers = byName(modules, catalogue)
  for (const module of modules) {
    const name = sharedName(module, 'keeper', catalogue)
    if (name !== undefined && keepers.get(name) !== module.id)
      return {
        place: `${module.id}.${catalogue.get(module.type)!.description.shares!.name}`,
        message: `"${name}" is already the name of ${keepers.get(name)!}. Give one of them another name`,
      }
  }
  return undefined
}

/** Guests that find nobody. */
export const lonelyGuests = (modules: readonly PatchModule[], catalogue: Catalogue): Fault[] => {
  const keepers = byName(modules, catalogue)
  return modules.flatMap((module) => {
    const name = sharedName(module, 'guest', catalogue)
    return name === undefined || keepers.has(name)
      ? []
      : [{ place: module.id, message: `looks for "${name}", which nothing keeps: it is silent` }]
  })
}
