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

const readersIn = ({ fed }: FlatPatch): Map<string, Reader[]> => {
  const readers = new Map<string, Reader[]>()
  for (const [reader, inputs] of fed)
    for (const { input, feeds } of inputs)
      for (const { module, port } of feeds) {
        const end = { port, module: reader, input },
          found = readers.get(module)
        if (found) found.push(end)
        else readers.set(module, [end])
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
