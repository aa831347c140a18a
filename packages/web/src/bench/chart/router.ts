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

const groupsOf = (wires: readonly Wire[]): Map<string, Wire[]> => {
  const groups = new Map<string, Wire[]>()
  for (const wire of wires) {
    const group = groups.get(wire.source)
    if (group) group.push(wire)
    else groups.set(wire.source, [wire])
  }
  return groups
}

const isForward = ({ from, to }: Wire): boolean => to.x >= from.x + 2 * STUB

/** Wires of one source: they leave as one trunk and part where they turn off. */
interface Group {
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
  private readonly groups = new Map<string, Group>()
  private shifts: ReadonlyMap<string, number> = new Map()
  private routes: ReadonlyMap<string, Route> = new Map()

  /** All cables there are. */
  update(wires: readonly Wire[], boxes: readonly Box[] = []): ReadonlyMap<string, Route> {
    const groups = groupsOf(wires)
    this.shifts = shiftsOf(wires)
    for (const source of this.groups.keys())
      if (!groups.has(source)) {
        for (const id of this.groups.get(source)!.made.keys()) this.release(id)
        this.release(source)
        this.groups.delete(source)
      }
    const routes = new Map<string, Route>()
    this.layAll(groups, boxes, routes)
    this.routes = routes
    return routes
  }

  /** The same cables, of which those of some sources have moved: all cables of these. */
  adjust(wires: readonly Wire[], boxes: readonly Box[] = []): ReadonlyMap<string, Route> {
    const routes = new Map(this.routes)
    this.layAll(groupsOf(wires), boxes, routes)
    this.routes = routes
    return routes
  }

  private madeOf({ id, from, to }: Wire): string {
    return `${from.x} ${from.y} ${to.x} ${to.y} ${this.shifts.get(id) ?? 0}`
  }

  /** Lays the wires of some sources, from left to right; what has changed is taken up first. */
  private layAll(
    groups: ReadonlyMap<string, readonly Wire[]>,
    boxes: readonly Box[],
    routes: Map<string, Route>,
  ): void {
    const ways = new Map(
      [...groups].map(([source, group]) => [
        source,
        new Map(group.map((wire) => [wire.id, this.madeOf(wire)])),
      ]),
    )
    for (const [source, made] of ways)
      for (const [id, way] of this.groups.get(source)?.made ?? []) if (made.get(id) !== way) this.release(id)
    const inOrder = [...groups].sort(([, [a]], [, [b]]) => a!.from.x - b!.from.x || a!.from.y - b!.from.y)
    for (const [source, group] of inOrder) this.lay(source, group, ways.get(source)!, boxes, routes)
  }

  private lay(
    source: string,
    group: readonly Wire[],
    made: ReadonlyMap<string, string>,
    boxes: readonly Box[],
    routes: Map<string, Route>,
  ): void {
    const before = this.groups.get(source)
    const isKept = ({ id }: Wire): boolean => before?.made.get(id) === made.get(id)
    const trunk = this.trunkOf(source, group, group.some(isKept) ? before : undefined)
    this.groups.set(source, { trunk, made })
    for (const wire of group) {
      const old = isKept(wire) ? this.routes.get(wire.id) : undefined
      const route = old ?? this.routeOf(wire, trunk, this.shifts.get(wire.id) ?? 0, boxes)
      const branch = group.length > 1 && route.turns ? { x: trunk, y: wire.from.y } : undefined
      routes.set(wire.id, isSameBranch(route.branch, branch) ? route : { ...route, branch })
    }
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
