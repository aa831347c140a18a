/** The way of one cable: level out of its port, round cards, level into the other. */
import type { Lanes } from './lanes.ts'
import type { Box, Point, Wire } from './routing.ts'

export const STUB = 12

/** The last bit before a port: fanned-in lines come together only at the port itself. */
const arrival = (to: Point, shift: number): Point[] =>
  shift === 0 ? [to] : [{ x: to.x - STUB + 2, y: to.y + shift }, to]

/** A level run that would pass behind cards for long is led around above or below them. */
const blockedBy = (boxes: readonly Box[], x1: number, x2: number, y: number): Box | undefined =>
  boxes.find((box) => box.left < x2 - 6 && box.right > x1 + 6 && box.top - 3 < y && box.bottom + 3 > y)

/** What a way is looked for with. */
export interface Way {
  readonly wire: Wire
  readonly trunk: number
  readonly shift: number
  readonly boxes: readonly Box[]
  readonly verticals: Lanes
  readonly horizontals: Lanes
}

/** By a level lane, then down to the port at most `reach` before it. */
const byLane = ({ wire, trunk, shift, verticals }: Way, lane: number, reach: number): Point[] => {
  const { id: owner, from, to, source } = wire,
    y = to.y + shift
  const last = verticals.place({
    owner,
    source,
    wanted: to.x - STUB - 4,
    a: lane,
    b: y,
    low: to.x - reach,
    high: to.x - STUB,
  })
  return [
    from,
    { x: trunk, y: from.y },
    { x: trunk, y: lane },
    { x: last, y: lane },
    { x: last, y },
    ...arrival(to, shift),
  ]
}

export const forwardPoints = (way: Way): Point[] => {
  const { wire, trunk, shift, boxes, horizontals } = way
  const { id: owner, from, to, source } = wire
  const y = to.y + shift
  const block = blockedBy(boxes, trunk, to.x - STUB, y)
  if (!block) return [from, { x: trunk, y: from.y }, { x: trunk, y }, ...arrival(to, shift)]
  const over =
    Math.abs(from.y - block.top) + Math.abs(y - block.top) <
    Math.abs(from.y - block.bottom) + Math.abs(y - block.bottom)
  const lane = horizontals.place({
    owner,
    source,
    wanted: over ? block.top - 10 : block.bottom + 10,
    a: trunk,
    b: to.x,
    low: -Infinity,
    high: Infinity,
  })
  return byLane(way, lane, 90)
}

export const backwardPoints = (way: Way): Point[] => {
  const { wire, trunk, boxes, horizontals } = way
  const { id: owner, from, to, source } = wire
  const left = Math.min(from.x, to.x) - STUB,
    right = Math.max(from.x, trunk)
  const between = boxes.filter(
    (box) =>
      box.left < right &&
      box.right > left &&
      box.bottom > Math.min(from.y, to.y) - 30 &&
      box.top < Math.max(from.y, to.y) + 30,
  )
  const below =
    between.length > 0 ? Math.max(...between.map((box) => box.bottom)) + 12 : Math.max(from.y, to.y) + 40
  const gap = gapBetween(between, from.y, to.y)
  const lane = horizontals.place({
    owner,
    source,
    wanted: gap ?? below,
    a: left,
    b: right,
    low: gap === undefined ? -Infinity : gap - 14,
    high: gap === undefined ? Infinity : gap + 14,
  })
  return byLane(way, lane, 120)
}

/** A level gap between cards somewhere between two heights. */
const gapBetween = (boxes: readonly Box[], a: number, b: number): number | undefined => {
  const low = Math.min(a, b),
    high = Math.max(a, b)
  const edges = boxes.map((box) => box.bottom + 10).filter((y) => y > low && y < high)
  return edges
    .sort((p, q) => Math.abs(p - (low + high) / 2) - Math.abs(q - (low + high) / 2))
    .find((y) => !boxes.some((box) => box.top - 4 < y && box.bottom + 4 > y))
}
