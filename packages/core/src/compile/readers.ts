/** The flat patch the other way round: what every module feeds. */
import type { FlatPatch } from './flatten.ts'

export interface Reader {
  /** Output it comes from. */
  readonly port: string
  readonly module: string
  /** Input or parameter it ends on. */
  readonly input: string
}

const NONE: readonly Reader[] = []
const known = new WeakMap<FlatPatch, ReadonlyMap<string, readonly Reader[]>>()

const readersIn = ({ feeds }: FlatPatch): Map<string, Reader[]> => {
  const readers = new Map<string, Reader[]>()
  for (const [target, list] of feeds) {
    const dot = target.indexOf('.')
    const end = { module: target.slice(0, dot), input: target.slice(dot + 1) }
    for (const { module, port } of list) {
      const found = readers.get(module)
      if (found) found.push({ port, ...end })
      else readers.set(module, [{ port, ...end }])
    }
  }
  return readers
}

/** Everything that reads a module's outputs; made once for a flat patch. */
export const readersOf = (flat: FlatPatch, id: string): readonly Reader[] => {
  let readers = known.get(flat)
  if (!readers) {
    readers = readersIn(flat)
    known.set(flat, readers)
  }
  return readers.get(id) ?? NONE
}
