/** Cables of a patch by their ends: made once for a patch and used wherever an end is looked at. */
import { type Cable, type Patch, patchIndex } from '@ypsilon/core'

interface CableIndex {
  readonly to: ReadonlyMap<string, readonly Cable[]>
  readonly from: ReadonlyMap<string, readonly Cable[]>
}

const known = new WeakMap<readonly Cable[], CableIndex>()

const grouped = (cables: readonly Cable[], end: 'from' | 'to'): ReadonlyMap<string, readonly Cable[]> => {
  const found = new Map<string, Cable[]>()
  for (const cable of cables) {
    const there = found.get(cable[end])
    if (there) there.push(cable)
    else found.set(cable[end], [cable])
  }
  return found
}

const indexOf = (cables: readonly Cable[]): CableIndex => {
  let index = known.get(cables)
  if (!index) {
    index = { to: grouped(cables, 'to'), from: grouped(cables, 'from') }
    known.set(cables, index)
  }
  return index
}

const lists = new WeakMap<Patch, readonly (readonly Cable[])[]>()
/** Lists of cables of a patch: its own, and those of its groups. */
const listsOf = (patch: Patch): readonly (readonly Cable[])[] => {
  let found = lists.get(patch)
  if (!found) {
    const inner = patchIndex(patch).modules.flatMap(({ module }) =>
      module.inside ? [module.inside.cables] : [],
    )
    found = [patch.cables, ...inner]
    lists.set(patch, found)
  }
  return found
}

const NONE: readonly Cable[] = []
const found = (patch: Patch, end: 'to' | 'from', port: string): readonly Cable[] => {
  const all = listsOf(patch)
  if (all.length === 1) return indexOf(all[0]!)[end].get(port) ?? NONE
  return all.flatMap((cables) => indexOf(cables)[end].get(port) ?? NONE)
}
/** Cables that end on a port, in file order. */
export const cablesTo = (patch: Patch, port: string): readonly Cable[] => found(patch, 'to', port)
/** Cables that begin at a port, in file order. */
export const cablesFrom = (patch: Patch, port: string): readonly Cable[] => found(patch, 'from', port)
