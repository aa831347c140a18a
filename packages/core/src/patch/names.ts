/** What modules and ports of a patch are called, as people read it. */
import { descriptionOf } from './groups.ts'
import { patchIndex } from './index.ts'
import { isPort } from './ports.ts'
import type { Patch, PatchModule } from './types.ts'
import { splitTarget } from './walk.ts'

/** Groups and their ports have a name as a parameter. */
const isNamed = (module: PatchModule): boolean => module.type === 'group' || isPort(module)

/** A module's own name, or its type's; of what is not known its type, of what is not there its id. */
export const labelOf = (patch: Patch, id: string): string => {
  const module = patchIndex(patch).module.get(id)
  return module ? moduleLabel(module) : id
}

/** A module's own name, or its type's; of a port of a group its name. */
export const moduleLabel = (module: PatchModule): string => {
  const name = isNamed(module) ? module.params?.['name'] : undefined
  return (
    module.label ?? (typeof name === 'string' && name ? name : (descriptionOf(module)?.label ?? module.type))
  )
}

/** An end of a cable in words: "Low reed pulse". */
export const endWords = (patch: Patch, end: string): string => {
  const [id = '', port = ''] = splitTarget(end) ?? []
  return `${labelOf(patch, id)} ${port}`
}
