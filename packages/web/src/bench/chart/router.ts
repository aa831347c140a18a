/** Ways of all cables, kept from one time to the next. */
import { shiftsOf, wiresBySource } from './fans.ts'
import { Ground } from './ground.ts'
import { boundsOf, type Box, chamfered, type Point, type Route, type Wire } from './routing.ts'
import { Runs } from './runs.ts'
import { branchFrom, MOST_COMPARED } from './partings.ts'
import { type TagPlace, tagPlace, tagPlaces, type Taken, wantedTag } from './tags.ts'
import { bestWay, type Care, clearCost, costOf, doubledCost, type Field, trunkFor, wayCost } from './ways.ts'

/** Patches of up to so many cables are laid with such care; twice: those that were laid first know the last ones. */
const CARES: readonly (Care & { readonly most: number; readonly isTwice: boolean })[] = [
  { most: 400, lanes: 10, trunks: 12, reach: 600, isCounting: true, isTwice: true },
  { most: 1500, lanes: 4, trunks: 4, reach: 600, isCounting: true, isTwice: false },
  { most: Infinity, lanes: 1, trunks: 1, reach: 60, isCounting: false, isTwice: false },
]
/** What it costs a cable, in pixels of length, that its amount has no place along it; so often it is laid anew for that. */
const NO_ROOM = 500,
  MOST_ROUNDS = 3
const NOTHING: ReadonlySet<string> = new Set()

/** A group as it once lay. */
interface Known extends Group {
  readonly ways: ReadonlyMap<string, readonly Point[]>
  readonly cost: number
}
/** So many such are known of each: what is tried and undone comes back at once. */
const MOST_KNOWN = 4

/** Wires of one source: they leave as one trunk and part where they turn off. */
interface Group {
  readonly trunk: number
  /** What each wire's way was made from. */
  readonly made: ReadonlyMap<string, string>
}

/**
 * Ways of all cables, kept from one time to the next: a wire that did not change keeps its way, whatever is moved beside
 * it, unless a card comes to stand on it. Ways are looked for anew only for wires that are new, or of which an end has
 * moved. Every way is the one that costs least of those worth a look, knowing all that are there; a second round lets
 * those that were laid first know the last ones.
 */
export class Router {
  private readonly verticals = new Runs()
  private readonly horizontals = new Runs()
  private readonly groups = new Map<string, Group>()
  private readonly ways = new Map<string, readonly Point[]>()
  private readonly behind = new Map<string, number>()
  private shifts: ReadonlyMap<string, number> = new Map()
  private care = CARES[0]!
  /** How cables of a source lay when nothing was held, the latest first: what comes back has its old ways again. */
  private readonly known = new Map<string, readonly Known[]>()
  private routes: ReadonlyMap<string, Route> = new Map()

  /** All cables there are. */
  update(wires: readonly Wire[], boxes: readonly Box[] = []): ReadonlyMap<string, Route> {
    const groups = wiresBySource(wires)
    this.shifts = shiftsOf(wires)
    const ids = new Set(wires.map(({ id }) => id))
    for (const id of [...this.ways.keys()]) if (!ids.has(id)) this.release(id)
    for (const source of [...this.groups.keys()])
      if (!groups.has(source)) {
        this.groups.delete(source)
        this.known.delete(source)
      }
    const routes = new Map<string, Route>()
    this.care = CARES.find(({ most }) => wires.length <= most)!
    this.layAll(groups, wires, boxes, routes, this.care.isTwice ? 'twice' : 'once')
    this.routes = routes
    return routes
  }

  /** The same cables, of which those of some sources have moved: all cables of these. */
  adjust(wires: readonly Wire[], boxes: readonly Box[] = []): ReadonlyMap<string, Route> {
    const routes = new Map(this.routes)
    this.layAll(wiresBySource(wires), wires, boxes, routes, 'moving')
    this.routes = routes
    return routes
  }

  private release(id: string): void {
    this.verticals.release(id)
    this.horizontals.release(id)
    this.ways.delete(id)
    this.behind.delete(id)
  }

  private hold({ id, source }: Wire, way: readonly Point[]): void {
    this.ways.set(id, way)
    for (let at = 1; at < way.length; at += 1) {
      const a = way[at - 1]!,
        b = way[at]!
      if (a.x === b.x && a.y !== b.y) this.verticals.add(id, source, a.x, a.y, b.y)
      else if (a.y === b.y && a.x !== b.x) this.horizontals.add(id, source, a.y, a.x, b.x)
    }
  }

  private madeOf({ id, from, to, tag = 0 }: Wire): string {
    return `${from.x} ${from.y} ${to.x} ${to.y} ${this.shifts.get(id) ?? 0} ${tag}`
  }

  /** Lays the wires of some sources, from left to right; what has changed is taken up first. */
  private layAll(
    groups: ReadonlyMap<string, readonly Wire[]>,
    wires: readonly Wire[],
    boxes: readonly Box[],
    routes: Map<string, Route>,
    how: 'once' | 'twice' | 'moving',
  ): void {
    const { verticals, horizontals } = this
    const ground = new Ground(boxes)
    const tags = new Ground(wires.flatMap(({ to, tag = 0 }) => (tag > 0 ? [wantedTag(to, tag)] : [])))
    const field: Field = { ground, tags, verticals, horizontals, care: this.care }
    // What is only passing over it makes no line go another way.
    const fresh = this.takeUp(groups, how === 'moving' ? undefined : ground)
    const inOrder = [...groups].sort(([, [a]], [, [b]]) => a!.from.x - b!.from.x || a!.from.y - b!.from.y)
    const back = new Set(
      inOrder.flatMap(([source, group]) =>
        this.bringBack(field, source, group, fresh, how) ? [source] : [],
      ),
    )
    const left = inOrder.filter(([source]) => !back.has(source))
    for (const [source, group] of left) this.lay(field, source, group, fresh)
    if (how === 'twice') for (const [source, group] of left) this.layAgain(field, source, group, fresh)
    const places = this.placeTags(field, inOrder, how === 'moving' ? NOTHING : fresh)
    for (const id of fresh) this.behind.set(id, ground.cardsOn(this.ways.get(id)!))
    if (how !== 'moving') for (const [source, group] of inOrder) this.remember(field, source, group, fresh)
    this.draw(inOrder, fresh, places, routes)
  }

  /** Takes up wires that are new, that moved, or on which a card has come to stand; their ids. */
  private takeUp(groups: ReadonlyMap<string, readonly Wire[]>, ground: Ground | undefined): Set<string> {
    const fresh = new Set<string>()
    for (const [source, group] of groups) {
      const before = this.groups.get(source)?.made
      for (const wire of group) {
        const way = this.ways.get(wire.id)
        const isKept =
          way !== undefined &&
          before?.get(wire.id) === this.madeOf(wire) &&
          (!ground || ground.cardsOn(way) <= (this.behind.get(wire.id) ?? 0))
        if (isKept) continue
        fresh.add(wire.id)
        this.release(wire.id)
      }
    }
    return fresh
  }

  /**
   * Cables of a source that all stand as they once did have the ways they had, where those cost no more by now. While
   * something is held it is as it last rested, whatever lies there.
   */
  private bringBack(
    field: Field,
    source: string,
    group: readonly Wire[],
    fresh: ReadonlySet<string>,
    how: 'once' | 'twice' | 'moving',
  ): boolean {
    if (!group.some(({ id }) => fresh.has(id))) return false
    const states = this.known.get(source) ?? []
    const found = (how === 'moving' ? states.slice(0, 1) : states).find(
      ({ made, ways, cost }) =>
        group.every(
          (wire) =>
            made.get(wire.id) === this.madeOf(wire) &&
            (fresh.has(wire.id) || ways.get(wire.id) === this.ways.get(wire.id)),
        ) &&
        (how === 'moving' || costOf(field, source, ways.values()) <= cost),
    )
    if (!found) return false
    for (const wire of group) if (fresh.has(wire.id)) this.hold(wire, found.ways.get(wire.id)!)
    this.groups.set(source, { trunk: found.trunk, made: found.made })
    return true
  }

  private remember(field: Field, source: string, group: readonly Wire[], fresh: ReadonlySet<string>): void {
    if (!group.some(({ id }) => fresh.has(id))) return
    const { trunk, made } = this.groups.get(source)!,
      ways = new Map(group.map(({ id }) => [id, this.ways.get(id)!]))
    const state = { trunk, made, ways, cost: costOf(field, source, ways.values()) }
    // Of each place the latest.
    const others = (this.known.get(source) ?? []).filter(({ made: old }) => !isSameMade(old, made))
    this.known.set(source, [state, ...others].slice(0, MOST_KNOWN))
  }

  private lay(field: Field, source: string, group: readonly Wire[], fresh: ReadonlySet<string>): void {
    const old = group.some(({ id }) => !fresh.has(id)) ? this.groups.get(source) : undefined
    const trunk = old?.trunk ?? trunkFor(field, group, source, this.shifts)
    this.groups.set(source, { trunk, made: new Map(group.map((wire) => [wire.id, this.madeOf(wire)])) })
    for (const wire of group)
      if (fresh.has(wire.id))
        this.hold(
          wire,
          bestWay(field, wire, trunk, this.shifts.get(wire.id) ?? 0, (points) =>
            doubledCost(field, source, points),
          ),
        )
  }

  /** Lays a group anew, now that all others are there, where that costs less. */
  private layAgain(field: Field, source: string, group: readonly Wire[], fresh: ReadonlySet<string>): void {
    if (!group.every(({ id }) => fresh.has(id))) return
    const before = group.map(({ id }) => this.ways.get(id)!),
      costs = before.map((way) => wayCost(field, source, way)),
      { trunk, made } = this.groups.get(source)!
    // Nothing is in the way of any of them: no other is better.
    if (group.every((wire, at) => costs[at]! <= clearCost(wire, this.shifts.get(wire.id) ?? 0))) return
    const release = (): void => {
      for (const { id } of group) this.release(id)
    }
    release()
    this.lay(field, source, group, fresh)
    const now = group.map(({ id }) => this.ways.get(id)!)
    if (costs.reduce((sum, cost) => sum + cost, 0) > costOf(field, source, now)) return
    release()
    group.forEach((wire, at) => {
      this.hold(wire, before[at]!)
    })
    this.groups.set(source, { trunk, made })
  }

  /** Places for all amounts. A fresh cable along which its amount has none is laid anew. */
  private placeTags(
    field: Field,
    groups: readonly (readonly [string, readonly Wire[]])[],
    fresh: ReadonlySet<string>,
  ): ReadonlyMap<string, TagPlace> {
    const wires = groups.flatMap(([, group]) => group.filter(({ tag = 0 }) => tag > 0))
    for (let round = 1; ; round += 1) {
      const { places, taken } = tagPlaces(field, wires, (id) => this.ways.get(id)!)
      const crowded = wires.filter(({ id }) => fresh.has(id) && !places.get(id)!.isFree)
      if (crowded.length === 0 || round > MOST_ROUNDS) return places
      for (const wire of crowded) this.layWithRoom(field, wire, taken)
    }
  }

  /** Lays a cable anew so that its amount has a place along it, where a way like that is not too dear. */
  private layWithRoom(field: Field, wire: Wire, taken: Taken): void {
    const { trunk } = this.groups.get(wire.source)!
    this.release(wire.id)
    const way = bestWay(
      field,
      wire,
      trunk,
      this.shifts.get(wire.id) ?? 0,
      (points) =>
        doubledCost(field, wire.source, points) +
        (tagPlace(field, wire.id, points, wire.tag!, taken).isFree ? 0 : NO_ROOM),
    )
    this.hold(wire, way)
  }

  /** Lines, dots and tags of all; those of cables that kept their way stay the same objects. */
  private draw(
    groups: readonly (readonly [string, readonly Wire[]])[],
    fresh: ReadonlySet<string>,
    places: ReadonlyMap<string, TagPlace>,
    routes: Map<string, Route>,
  ): void {
    for (const [, group] of groups)
      group.forEach((wire, number) => {
        const way = this.ways.get(wire.id)!,
          before = this.routes.get(wire.id)
        const earlier = group.slice(Math.max(0, number - MOST_COMPARED), number),
          branch = branchFrom(
            way,
            earlier.map(({ id }) => this.ways.get(id)!),
          )
        const { box, isFree } = places.get(wire.id) ?? { box: wantedTag(wire.to, 0), isFree: true }
        const tag = { x: box.right, y: box.bottom }
        const isSame =
          before !== undefined &&
          !fresh.has(wire.id) &&
          before.isCrowded !== isFree &&
          isSamePoint(before.branch, branch) &&
          isSamePoint(before.tag, tag)
        const path = before && !fresh.has(wire.id) ? before.path : chamfered(way)
        const made = { id: wire.id, path, branch, tag, isCrowded: !isFree, box: boundsOf(way) }
        routes.set(wire.id, isSame ? before : made)
      })
  }
}

const isSameMade = (a: ReadonlyMap<string, string>, b: ReadonlyMap<string, string>): boolean =>
  a.size === b.size && [...a].every(([id, made]) => b.get(id) === made)

const isSamePoint = (a: Point | undefined, b: Point | undefined): boolean => a?.x === b?.x && a?.y === b?.y

/** Routes all wires at once. */
export const route = (wires: readonly Wire[], boxes: readonly Box[] = []): ReadonlyMap<string, Route> =>
  new Router().update(wires, boxes)
