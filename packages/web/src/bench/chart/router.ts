/** Ways of all cables, kept from one time to the next. */
import { Lanes } from './lanes.ts'
import { type Box, chamfered, type Point, type Route, type Wire } from './routing.ts'
import { backwardPoints, forwardPoints, STUB } from './ways.ts'

/** Several sources that meet at one input arrive this far apart. */
const FAN = 5

const boundsOf = (points: readonly Point[]): Box => ({
  left: Math.min(...points.map(({ x }) => x)),
  right: Math.max(...points.map(({ x }) => x)),
  top: Math.min(...points.map(({ y }) => y)),
  bottom: Math.max(...points.map(({ y }) => y)),
})

/** How far from the port's height a wire arrives, so that several sources meet at the port itself. */
const shiftsOf = (wires: readonly Wire[]): Map<string, number> => {
  const arriving = new Map<string, string[]>()
  for (const { target, source } of wires) {
    const sources = arriving.get(target)
    if (!sources) arriving.set(target, [source])
    else if (!sources.includes(source)) sources.push(source)
  }
  return new Map(
    wires.map(({ id, source, target }) => {
      const sources = arriving.get(target)!
      return [id, (sources.indexOf(source) - (sources.length - 1) / 2) * FAN]
    }),
  )
}

const isForward = ({ from, to }: Wire): boolean => to.x >= from.x + 2 * STUB

/** Wires of one source: they leave as one trunk and part where they turn off. */
interface Group {
  readonly from: Point
  readonly trunk: number
  /** What each wire's way was made from. */
  readonly made: ReadonlyMap<string, string>
}

/**
 * Ways of all cables, kept from one time to the next: a wire that did not change keeps its way, whatever is moved beside
 * it. Ways are looked for anew only for wires that are new, or of which an end has moved.
 */
export class Router {
  private readonly lanes = { verticals: new Lanes(), horizontals: new Lanes() }
  private groups = new Map<string, Group>()
  private routes: ReadonlyMap<string, Route> = new Map()

  update(wires: readonly Wire[], boxes: readonly Box[] = []): ReadonlyMap<string, Route> {
    const shifts = shiftsOf(wires),
      bySource = new Map<string, Wire[]>()
    for (const wire of wires) {
      const group = bySource.get(wire.source)
      if (group) group.push(wire)
      else bySource.set(wire.source, [wire])
    }
    const madeOf = ({ id, from, to }: Wire): string =>
      `${from.x} ${from.y} ${to.x} ${to.y} ${shifts.get(id)!}`
    for (const [source, { made }] of this.groups) {
      const now = new Map(bySource.get(source)?.map((wire) => [wire.id, madeOf(wire)]))
      for (const [id, way] of made) if (now.get(id) !== way) this.release(id)
    }
    const routes = new Map<string, Route>(),
      groups = new Map<string, Group>()
    const inOrder = [...bySource].sort(([, [a]], [, [b]]) => a!.from.x - b!.from.x || a!.from.y - b!.from.y)
    for (const source of this.groups.keys()) if (!bySource.has(source)) this.release(source)
    for (const [source, group] of inOrder) {
      const made = new Map(group.map((wire) => [wire.id, madeOf(wire)])),
        before = this.groups.get(source)
      const isKept = (wire: Wire): boolean => before?.made.get(wire.id) === made.get(wire.id)
      const trunk = this.trunkOf(source, group, group.some(isKept) ? before : undefined)
      groups.set(source, { from: group[0]!.from, trunk, made })
      for (const wire of group) {
        const old = isKept(wire) ? this.routes.get(wire.id) : undefined
        const route = old ?? this.routeOf(wire, trunk, shifts.get(wire.id)!, boxes)
        const branch = group.length > 1 && route.turns ? { x: trunk, y: wire.from.y } : undefined
        routes.set(wire.id, isSameBranch(route.branch, branch) ? route : { ...route, branch })
      }
    }
    this.groups = groups
    this.routes = routes
    return routes
  }

  private release(owner: string): void {
    this.lanes.verticals.release(owner)
    this.lanes.horizontals.release(owner)
  }

  /** Where the wires of a source turn off; it stays as long as one of them does. */
  private trunkOf(source: string, group: readonly Wire[], before: Group | undefined): number {
    const { from } = group[0]!
    const forward = group.filter(isForward)
    const ys = [from.y, ...forward.map((wire) => wire.to.y)]
    const a = Math.min(...ys),
      b = Math.max(...ys)
    if (before) {
      this.lanes.verticals.widen(source, a, b)
      return before.trunk
    }
    this.release(source)
    const isWanted =
      forward.some((wire) => Math.abs(wire.to.y - from.y) > 0.5) || group.length > forward.length
    if (!isWanted) return from.x + STUB
    const nearest = Math.min(...forward.map((wire) => wire.to.x), from.x + 64)
    return this.lanes.verticals.place({
      owner: source,
      source,
      wanted: from.x + STUB + 4,
      a,
      b,
      low: from.x + STUB,
      high: Math.max(nearest - STUB, from.x + STUB + 1),
    })
  }

  private routeOf(wire: Wire, trunk: number, shift: number, boxes: readonly Box[]): Route {
    const way = { wire, trunk, shift, boxes, ...this.lanes }
    const points = isForward(wire) ? forwardPoints(way) : backwardPoints(way)
    return {
      id: wire.id,
      path: chamfered(points),
      turns: points.length > 2,
      branch: undefined,
      tag: { x: wire.to.x - 9, y: wire.to.y + shift * 2.6 },
      box: boundsOf(points),
    }
  }
}

const isSameBranch = (a: Point | undefined, b: Point | undefined): boolean => a?.x === b?.x && a?.y === b?.y

/** Routes all wires at once. */
export const route = (wires: readonly Wire[], boxes: readonly Box[] = []): ReadonlyMap<string, Route> =>
  new Router().update(wires, boxes)
