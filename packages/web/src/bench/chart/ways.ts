/** Ways that a cable may take from its port to another: those worth a look, with what each would cost. */
import { LANE } from '@ypsilon/core'
import type { Ground } from './ground.ts'
import type { Runs } from './runs.ts'
import type { Point, Wire } from './routing.ts'

const STUB = 12
/** Beyond the cards a level lane keeps so far from them. */
const BESIDE = 10

/** Costs in pixels of length. */
const BEND = 14,
  CROSSING = 70,
  CARD = 600,
  BEHIND = 2,
  ON_ANOTHER = 90,
  OVER_TAG = 40
/** How far to either side of a lane a free one is looked for. */
const LANE_REACH = 4 * LANE
/** A way that costs so much more than the shortest is worth looking further. */
const DEAR = 300,
  FAR_BACK = 4000
/** How far a trunk goes from its port, and a last upright from its target. */
const TRUNK_REACH = 120

/** How much is looked at for one cable. */
export interface Care {
  /** Level lanes. */
  readonly lanes: number
  /** Places for the trunk of a source. */
  readonly trunks: number
  /** How far over and under both ends lanes are looked for, in pixels. */
  readonly reach: number
  /** Whether crossings are counted. */
  readonly isCounting: boolean
}

export interface Field {
  readonly care: Care
  readonly ground: Ground
  /** Amounts that stand before ports: lines should not go through them. */
  readonly tags: Ground
  readonly verticals: Runs
  readonly horizontals: Runs
}

/** The last bit before a port: fanned-in lines come together only at the port itself. */
const arrival = (to: Point, shift: number): Point[] =>
  shift === 0 ? [to] : [{ x: to.x - STUB + 2, y: to.y + shift }, to]

/** What a stretch costs that runs level or upright. */
const stretchCost = (field: Field, source: string, a: Point, b: Point): number => {
  const isLevel = a.y === b.y
  const length = Math.abs(a.x - b.x) + Math.abs(a.y - b.y)
  if (length < 0.5) return 0
  const own = isLevel ? field.horizontals : field.verticals,
    across = isLevel ? field.verticals : field.horizontals
  const [at, from, to] = isLevel ? [a.y, a.x, b.x] : [a.x, a.y, b.y]
  const crossed = field.care.isCounting ? across.crossed(source, at, from, to) : 0
  const { cards, length: behind } = field.ground.behind(a.x, a.y, b.x, b.y)
  const beside = own.beside(source, at, from, to)
  // An amount stands right over its own line, which runs level there.
  const over = isLevel ? 0 : field.tags.behind(a.x, a.y, b.x, b.y).cards
  return (
    length +
    CROSSING * crossed +
    CARD * cards +
    BEHIND * behind +
    (beside > 1 ? ON_ANOTHER + beside : 0) +
    OVER_TAG * over
  )
}

/** What a way costs: length, bends, crossings, cards it passes behind, others it lies on. */
export const wayCost = (field: Field, source: string, points: readonly Point[], most = Infinity): number => {
  let cost = BEND * Math.max(0, points.length - 2)
  for (let at = 1; at < points.length && cost < most; at += 1) {
    const a = points[at - 1]!,
      b = points[at]!
    // The slanted bit of a fan is the same on all ways.
    if (a.x === b.x || a.y === b.y) cost += stretchCost(field, source, a, b)
  }
  return cost
}

/** What the ways of a source cost together. Its own runs have no part in that. */
export const costOf = (field: Field, source: string, ways: Iterable<readonly Point[]>): number => {
  let cost = 0
  for (const way of ways) cost += wayCost(field, source, way)
  return cost
}

/** What it costs a way to run right beside others of its source. */
export const doubledCost = (
  { verticals, horizontals }: Field,
  source: string,
  points: readonly Point[],
): number => {
  let length = 0
  for (let at = 1; at < points.length; at += 1) {
    const a = points[at - 1]!,
      b = points[at]!
    if (a.y === b.y) length += horizontals.doubled(source, a.y, a.x, b.x)
    else if (a.x === b.x) length += verticals.doubled(source, a.x, a.y, b.y)
  }
  return length > 0 ? ON_ANOTHER / 2 + length / 2 : 0
}

const isForward = ({ from, to }: Wire): boolean => to.x >= from.x + 2 * STUB

/** Level out, upright at one place, level in. */
const once = ({ from, to }: Wire, x: number, shift: number): Point[] => {
  const y = to.y + shift
  return Math.abs(y - from.y) < 0.5
    ? [from, ...arrival(to, shift)]
    : [from, { x, y: from.y }, { x, y }, ...arrival(to, shift)]
}

/** Places for the first upright of a source's cables. */
const trunksOf = (field: Field, wires: readonly Wire[], source: string): number[] => {
  const { from } = wires[0]!
  const forward = wires.filter(isForward)
  const ys = [from.y, ...forward.map(({ to }) => to.y)]
  const span: [number, number] = [Math.min(...ys) - 1, Math.max(...ys) + 1]
  const nearest = Math.min(...forward.map(({ to }) => to.x - from.x), TRUNK_REACH)
  const room = field.ground.roomBeside(from.x + 2, span, 1, nearest)
  const first = from.x + STUB + 4,
    last = Math.max(first, from.x + room - STUB)
  const found: number[] = []
  for (let x = first; x <= last && found.length < field.care.trunks; x += LANE)
    if (field.verticals.beside(source, x, span[0], span[1]) === 0) found.push(x)
  return found.length > 0 ? found : [first]
}

/** Where the cables of a source turn off: where that costs them least together. */
export const trunkFor = (
  field: Field,
  wires: readonly Wire[],
  source: string,
  shifts: ReadonlyMap<string, number>,
): number => {
  const { from } = wires[0]!
  const forward = wires.filter(isForward)
  const isWanted = forward.length < wires.length || forward.some(({ to }) => Math.abs(to.y - from.y) > 0.5)
  if (!isWanted) return from.x + STUB
  const trunks = trunksOf(field, wires, source)
  let best = trunks[0]!,
    least = Infinity
  trunks.forEach((x, index) => {
    let cost = index
    for (const wire of forward) {
      cost += wayCost(field, source, once(wire, x, shifts.get(wire.id) ?? 0), least)
      if (cost >= least) break
    }
    if (cost >= least) return
    least = cost
    best = x
  })
  return best
}

/**
 * Over or under cards by a level lane, and down to the port's height just before it, or `right` where it may be reached
 * level from there; undefined where the lane is full.
 */
const byLane = (
  field: Field,
  { wire, trunk, shift }: { readonly wire: Wire; readonly trunk: number; readonly shift: number },
  level: number,
  right = wire.to.x - STUB - 4,
): Point[] | undefined => {
  const { from, to, source } = wire,
    y = to.y + shift
  const lane = field.horizontals.nearest(
    source,
    level,
    [trunk, right],
    [level - LANE_REACH, level + LANE_REACH],
    (at) => field.ground.isClear(Math.min(trunk, right), Math.max(trunk, right), at),
  )
  if (lane === undefined) return undefined
  const room = field.ground.roomBeside(right + STUB, [Math.min(lane, y), Math.max(lane, y)], -1, TRUNK_REACH)
  const last =
    field.verticals.nearest(
      source,
      right,
      [lane, y],
      [Math.min(right, right + STUB - Math.max(room, STUB + 5) + 5), right],
    ) ?? right
  return [
    from,
    { x: trunk, y: from.y },
    { x: trunk, y: lane },
    { x: last, y: lane },
    { x: last, y },
    ...arrival(to, shift),
  ]
}

/** Levels at which a lane may run, those with the least detour first. */
const lanesFor = (
  { ground, horizontals, care }: Field,
  { from, source }: Wire,
  [left, right]: readonly [number, number],
  y: number,
): number[] => {
  const detour = (level: number): number => Math.abs(level - from.y) + Math.abs(level - y)
  const around = ground.levels(
      left,
      right,
      [Math.min(from.y, y) - care.reach, Math.max(from.y, y) + care.reach],
      BESIDE,
      2 * care.lanes,
    ),
    own = horizontals
      .of(source, left, right)
      .filter((level) => ground.behind(left, level, right, level).cards === 0)
  const inner = [...own, ...around].sort((a, b) => detour(a) - detour(b)).slice(0, care.lanes)
  // There is always room over or under them all.
  return [...inner, ...ground.outer(left, right, BESIDE)]
}

/** What a way costs at most in which nothing is. */
export const clearCost = ({ from, to }: Wire, shift: number): number =>
  Math.abs(to.x - from.x) + Math.abs(to.y + shift - from.y) + 4 * BEND

/** The way that costs least. `further` is what a way costs beside what lies on it. */
export const bestWay = (
  field: Field,
  wire: Wire,
  trunk: number,
  shift: number,
  further: (way: readonly Point[]) => number = () => 0,
): Point[] => {
  const { from, to, source } = wire,
    y = to.y + shift
  let best: Point[] | undefined,
    least = Infinity
  const take = (points: Point[] | undefined): void => {
    if (!points) return
    let cost = wayCost(field, source, points, least)
    if (cost < least) cost += further(points)
    if (cost >= least) return
    best = points
    least = cost
  }
  if (isForward(wire)) {
    take(once(wire, trunk, shift))
    // Nothing is in its way.
    if (best && least <= clearCost(wire, shift)) return best
    const room = field.ground.roomBeside(
        to.x - 2,
        [Math.min(from.y, y), Math.max(from.y, y)],
        -1,
        TRUNK_REACH,
      ),
      right = to.x - STUB - 4,
      low = Math.max(trunk, to.x - room + 5)
    const late = field.verticals.nearest(source, right, [from.y, y], [Math.min(low, right), right])
    if (late !== undefined && late > trunk) take(once(wire, late, shift))
  }
  const end = to.x - STUB - 4,
    way = { wire, trunk, shift }
  for (const level of lanesFor(field, wire, [Math.min(trunk, end), Math.max(trunk, end)], y))
    take(byLane(field, way, level))
  if (!best || least > DEAR + Math.abs(to.x - from.x) + Math.abs(y - from.y)) {
    // As far back as the port is reached level: what stands farther left is passed by a lane of its own.
    const back = to.x - field.ground.roomBeside(to.x - 2, [y - 1, y + 1], -1, FAR_BACK) + STUB
    if (back > trunk + STUB && back < end - STUB)
      for (const level of lanesFor(field, wire, [trunk, back + LANE], y))
        take(byLane(field, way, level, back + LANE))
    take(byLane(field, way, Math.max(from.y, y) + 40))
  }
  return best ?? once(wire, trunk, shift)
}
