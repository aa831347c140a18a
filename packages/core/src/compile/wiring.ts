/** The flat patch as a graph of numbered modules: what comes into each, and what each goes on to. */
import type { Feed, FlatPatch } from './flatten.ts'

/** A source that ends somewhere on a module. */
export interface Incoming {
  readonly from: number
  readonly port: string
}

export interface Wiring {
  readonly number: ReadonlyMap<string, number>
  /** By module, in the order of the flat patch. A hidden formula hears what it serves and a guest its keeper, by port ''; a tail what it would. */
  readonly into: readonly (readonly Incoming[])[]
  /** Modules that each one feeds, each once. */
  readonly onto: readonly (readonly number[])[]
}

const known = new WeakMap<FlatPatch, Wiring>()

/** Everything that comes into a module. */
const incomingOf = (
  { fed, serves, ringing, keepers }: FlatPatch,
  number: ReadonlyMap<string, number>,
  id: string,
): Incoming[] => {
  const into: Incoming[] = []
  const add = ({ module, port }: Feed): void => {
    const from = number.get(module)
    if (from !== undefined) into.push({ from, port })
  }
  for (const { feeds } of fed.get(id) ?? []) feeds.forEach(add)
  ringing.get(id)?.forEach(add)
  const served = number.get(serves.get(id) ?? '')
  if (served !== undefined) into.push({ from: served, port: '' })
  // Guests take the shape of what they look into.
  const keeper = number.get(keepers.get(id) ?? '')
  if (keeper !== undefined) into.push({ from: keeper, port: '' })
  return into
}

const makeWiring = (flat: FlatPatch): Wiring => {
  const number = new Map<string, number>()
  for (const { id } of flat.modules) number.set(id, number.size)
  const into = flat.modules.map(({ id }) => incomingOf(flat, number, id)),
    onto: number[][] = flat.modules.map(() => [])
  // Module by module: one that is fed twice by the same stands last in its list.
  into.forEach((list, to) => {
    for (const { from } of list) if (onto[from]!.at(-1) !== to) onto[from]!.push(to)
  })
  return { number, into, onto }
}

/** The wiring of an amended flat patch: that of the one before, but for what comes into `touched` modules. */
export const carryWiring = (before: FlatPatch, flat: FlatPatch, touched: Iterable<string>): void => {
  const last = known.get(before)
  if (!last) return
  const { number } = last,
    into = last.into.slice(),
    onto = last.onto.slice()
  for (const id of touched) {
    const to = number.get(id)!,
      now = incomingOf(flat, number, id)
    const was = new Set(last.into[to]!.map(({ from }) => from)),
      is = new Set(now.map(({ from }) => from))
    into[to] = now
    for (const from of is) if (!was.has(from)) onto[from] = [...onto[from]!, to]
    for (const from of was) if (!is.has(from)) onto[from] = onto[from]!.filter((reader) => reader !== to)
  }
  known.set(flat, { number, into, onto })
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
