/** Chart lines: level out of the port, 45° corners, level into the port. Lines of different sources never share a way. */

export interface Point {
  readonly x: number
  readonly y: number
}
export interface Wire {
  readonly id: string
  readonly source: string
  readonly target: string
  readonly from: Point
  readonly to: Point
  /** Room that its amount takes at its end, in pixels; none where it has none. */
  readonly tag?: number
}
export interface Box {
  readonly left: number
  readonly top: number
  readonly right: number
  readonly bottom: number
}

export interface Route {
  readonly id: string
  readonly path: string
  /** Where the cable leaves another of its source: a dot is drawn there. */
  readonly branch: Point | undefined
  /** Lower right corner of a tag with its amount, where there is room along the line. */
  readonly tag: Point
  /** No place along it is free of other lines, tags and cards: the amount waits until the cable is meant. */
  readonly isCrowded: boolean
  /** What it lies within. */
  readonly box: Box
}

/** The corners of a way, in chart pixels. */
export const cornersOf = ({ path }: Route): Float64Array =>
  Float64Array.from(path.slice(1).split(/[L ]/), Number)

/** Half of the way along a line. */
export const middleOf = (route: Route): Point => {
  const way = cornersOf(route)
  const lengths = Array.from({ length: way.length / 2 - 1 }, (_, at) =>
    Math.hypot(way[2 * at + 2]! - way[2 * at]!, way[2 * at + 3]! - way[2 * at + 1]!),
  )
  let left = lengths.reduce((sum, length) => sum + length, 0) / 2
  for (const [at, length] of lengths.entries()) {
    if (left <= length && length > 0) {
      const share = left / length
      return {
        x: way[2 * at]! + share * (way[2 * at + 2]! - way[2 * at]!),
        y: way[2 * at + 1]! + share * (way[2 * at + 3]! - way[2 * at + 1]!),
      }
    }
    left -= length
  }
  return { x: way[0]!, y: way[1]! }
}

/** How far a place is from a line, in chart pixels. */
export const distanceTo = (route: Route, { x, y }: Point): number => {
  const { left, right, top, bottom } = route.box
  // No nearer than its box is.
  const outside = Math.max(left - x, x - right, top - y, y - bottom)
  if (outside > NEARBY) return Infinity
  const way = cornersOf(route)
  let least = Infinity
  for (let at = 2; at < way.length; at += 2) {
    const ax = way[at - 2]!,
      ay = way[at - 1]!,
      dx = way[at]! - ax,
      dy = way[at + 1]! - ay
    const length = dx * dx + dy * dy
    const share = length === 0 ? 0 : Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length))
    least = Math.min(least, Math.hypot(ax + share * dx - x, ay + share * dy - y))
  }
  return least
}
/** Lines farther off than this are not measured. */
const NEARBY = 120

/** How much of a corner is cut off. */
export const CORNER = 8

/** A path through points with corners cut at 45°. */
export const chamfered = (points: readonly Point[]): string => {
  const clean = points.filter((p, i) => i === 0 || p.x !== points[i - 1]!.x || p.y !== points[i - 1]!.y)
  let path = `M${clean[0]!.x} ${clean[0]!.y}`
  for (let i = 1; i < clean.length; i += 1) {
    const p = clean[i]!,
      before = clean[i - 1]!,
      after = clean[i + 1]
    if (!after) {
      path += `L${p.x} ${p.y}`
      break
    }
    const inLength = Math.hypot(p.x - before.x, p.y - before.y),
      outLength = Math.hypot(after.x - p.x, after.y - p.y)
    const cut = Math.min(CORNER, inLength / 2, outLength / 2)
    const ux = (p.x - before.x) / (inLength || 1),
      uy = (p.y - before.y) / (inLength || 1)
    const vx = (after.x - p.x) / (outLength || 1),
      vy = (after.y - p.y) / (outLength || 1)
    path += `L${p.x - ux * cut} ${p.y - uy * cut}L${p.x + vx * cut} ${p.y + vy * cut}`
  }
  return path
}

/** The box around a way. */
export const boundsOf = (points: readonly Point[]): Box => ({
  left: Math.min(...points.map(({ x }) => x)),
  right: Math.max(...points.map(({ x }) => x)),
  top: Math.min(...points.map(({ y }) => y)),
  bottom: Math.max(...points.map(({ y }) => y)),
})
