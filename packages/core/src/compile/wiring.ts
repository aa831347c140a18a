/** The flat patch as a graph of numbered modules: what comes into each, and what each goes on to. */
import type { FlatPatch } from './flatten.ts'

/** A source that ends somewhere on a module. */
export interface Incoming {
  readonly from: number
  readonly port: string
}

export interface Wiring {
  readonly number: ReadonlyMap<string, number>
  /** By module, in the order of the flat patch. A hidden formula hears what it serves, by port ''. */
  readonly into: readonly (readonly Incoming[])[]
  /** Modules that each one feeds, each once. */
  readonly onto: readonly (readonly number[])[]
}

const known = new WeakMap<FlatPatch, Wiring>()

const makeWiring = ({ modules, feeds, serves }: FlatPatch): Wiring => {
  const number = new Map<string, number>()
  for (const { id } of modules) number.set(id, number.size)
  const into: Incoming[][] = modules.map(() => []),
    onto: number[][] = modules.map(() => [])
  // The last module each one was joined to: cables of a module stand together, so this finds most doubles.
  const join = (from: number, to: number, port: string): void => {
    into[to]!.push({ from, port })
    const list = onto[from]!
    if (list[list.length - 1] !== to && !list.includes(to)) list.push(to)
  }
  for (const [target, list] of feeds) {
    const to = number.get(target.slice(0, target.indexOf('.')))!
    for (const { module, port } of list) {
      const from = number.get(module)
      if (from !== undefined) join(from, to, port)
    }
  }
  for (const [formula, served] of serves) {
    const to = number.get(formula),
      from = number.get(served)
    if (to !== undefined && from !== undefined) join(from, to, '')
  }
  return { number, into, onto }
}

/** Made once for a flat patch. */
export const wiringOf = (flat: FlatPatch): Wiring => {
  let wiring = known.get(flat)
  if (!wiring) {
    wiring = makeWiring(flat)
    known.set(flat, wiring)
  }
  return wiring
}
