/** Cables of a patch by their ends: made once for a patch and used wherever an end is looked at. */
import type { Cable, Patch } from '@ypsilon/core'

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

const indexOf = ({ cables }: Patch): CableIndex => {
  let index = known.get(cables)
  if (!index) {
    index = { to: grouped(cables, 'to'), from: grouped(cables, 'from') }
    known.set(cables, index)
  }
  return index
}

const NONE: readonly Cable[] = []
/** Cables that end on a port, in file order. */
export const cablesTo = (patch: Patch, port: string): readonly Cable[] => indexOf(patch).to.get(port) ?? NONE
/** Cables that begin at a port, in file order. */
export const cablesFrom = (patch: Patch, port: string): readonly Cable[] =>
  indexOf(patch).from.get(port) ?? NONE
