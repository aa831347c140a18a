/** What modules and ports of a patch are called, as people read it. */
import { descriptionOf } from './groups.ts'
import { patchIndex } from './index.ts'
import type { Patch } from './types.ts'
import { splitTarget } from './walk.ts'

/** A module's own name, or its type's; of what is not known its type, of what is not there its id. */
export const labelOf = (patch: Patch, id: string): string => {
  const module = patchIndex(patch).module.get(id)
  return module?.label ?? (module ? (descriptionOf(module)?.label ?? module.type) : id)
}

/** An end of a cable in words: "Low reed pulse". */
export const endWords = (patch: Patch, end: string): string => {
  const [id = '', port = ''] = splitTarget(end) ?? []
  return `${labelOf(patch, id)} ${port}`
}
