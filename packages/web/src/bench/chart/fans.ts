/** Cables that leave together, and those that arrive together. */
import type { Point, Wire } from './routing.ts'

/** Several sources that meet at one input arrive this far apart. */
const FAN = 6
/** How far from the port's height a wire arrives: several sources meet at the port itself, from above to below. */
export const shiftsOf = (wires: readonly Wire[]): Map<string, number> => {
  const arriving = new Map<string, Map<string, Point>>()
  for (const { target, source, from } of wires) {
    const sources = arriving.get(target)
    if (sources) sources.set(source, from)
    else arriving.set(target, new Map([[source, from]]))
  }
  const fans = new Map(
    [...arriving].map(([target, sources]) => {
      const inOrder = [...sources].sort(([a, p], [b, q]) => p.y - q.y || p.x - q.x || (a < b ? -1 : 1))
      return [target, new Map(inOrder.map(([source], at) => [source, (at - (inOrder.length - 1) / 2) * FAN]))]
    }),
  )
  return new Map(wires.map(({ id, source, target }) => [id, fans.get(target)!.get(source)!]))
}

/** Wires of each source, in their order. */
export const wiresBySource = (wires: readonly Wire[]): Map<string, Wire[]> => {
  const groups = new Map<string, Wire[]>()
  for (const wire of wires) {
    const group = groups.get(wire.source)
    if (group) group.push(wire)
    else groups.set(wire.source, [wire])
  }
  return groups
}
