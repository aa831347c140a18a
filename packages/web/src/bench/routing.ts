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
  /** Where the cable leaves its source's trunk; a dot is drawn when others go on. */
  readonly branch: Point | undefined
  /** Lower right corner of a tag with its amount: just before the port, over the line. */
  readonly tag: Point
  /** What it lies within. */
  readonly box: Box
}

const CORNER = 8
const LANE = 7
const STUB = 12
const STRIP = 2 * LANE
/** Several sources that meet at one input arrive this far apart. */
const FAN = 5

interface Run {
  readonly source: string
  readonly at: number
  readonly from: number
  readonly to: number
}

/** Keeps runs of different sources apart: the nearest free place to the wanted one, searching outwards. */
class Lanes {
  /** By where they lie, so that only those near are looked at. */
  private readonly taken = new Map<number, Run[]>()
  private near(at: number): Run[] {
    const strip = Math.floor(at / STRIP)
    return [strip - 1, strip, strip + 1].flatMap((index) => this.taken.get(index) ?? [])
  }
  place(source: string, wanted: number, a: number, b: number, low: number, high: number): number {
    const from = Math.min(a, b) - CORNER,
      to = Math.max(a, b) + CORNER
    const free = (at: number): boolean =>
      !this.near(at).some(
        (run) =>
          run.source !== source && Math.abs(run.at - at) < LANE - 0.5 && run.from < to && run.to > from,
      )
    let best = wanted
    for (let step = 0; step < 60; step += 1) {
      const offset = Math.ceil(step / 2) * LANE * (step % 2 ? 1 : -1)
      const at = wanted + offset
      if ((at < low || at > high) && step > 0 && low < high) continue
      if (free(at)) {
        best = at
        break
      }
    }
    const strip = Math.floor(best / STRIP),
      runs = this.taken.get(strip)
    if (runs) runs.push({ source, at: best, from, to })
    else this.taken.set(strip, [{ source, at: best, from, to }])
    return best
  }
}

const boundsOf = (points: readonly Point[]): Box => ({
  left: Math.min(...points.map(({ x }) => x)),
  right: Math.max(...points.map(({ x }) => x)),
  top: Math.min(...points.map(({ y }) => y)),
  bottom: Math.max(...points.map(({ y }) => y)),
})

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

/** Routes all wires at once. Wires of one source leave as one trunk and part where they turn off. */
export const route = (wires: readonly Wire[], boxes: readonly Box[] = []): Map<string, Route> => {
  const verticals = new Lanes(),
    horizontals = new Lanes()
  const bySource = new Map<string, Wire[]>()
  for (const wire of wires) bySource.set(wire.source, [...(bySource.get(wire.source) ?? []), wire])
  const arriving = new Map<string, string[]>()
  for (const wire of wires) {
    const list = arriving.get(wire.target) ?? []
    if (!list.includes(wire.source)) list.push(wire.source)
    arriving.set(wire.target, list)
  }
  const result = new Map<string, Route>()
  const sources = [...bySource.values()].sort(
    (a, b) => a[0]!.from.x - b[0]!.from.x || a[0]!.from.y - b[0]!.from.y,
  )
  for (const group of sources) {
    const { from, source } = group[0]!
    const forward = group.filter((wire) => wire.to.x >= from.x + 2 * STUB)
    const nearest = Math.min(...forward.map((wire) => wire.to.x), from.x + 64)
    const ys = [from.y, ...forward.map((wire) => wire.to.y)]
    const wantsTrunk =
      forward.some((wire) => Math.abs(wire.to.y - from.y) > 0.5) || group.length > forward.length
    const trunk = wantsTrunk
      ? verticals.place(
          source,
          from.x + STUB + 4,
          Math.min(...ys),
          Math.max(...ys),
          from.x + STUB,
          Math.max(nearest - STUB, from.x + STUB + 1),
        )
      : from.x + STUB
    for (const wire of group) {
      const rank = arriving.get(wire.target)!
      const n = rank.indexOf(wire.source)
      const shift = rank.length > 1 ? (n - (rank.length - 1) / 2) * FAN : 0
      const points =
        wire.to.x >= from.x + 2 * STUB
          ? forwardPoints(wire, trunk, shift, boxes, verticals, horizontals)
          : backwardPoints(wire, trunk, shift, boxes, verticals, horizontals)
      const turn = group.length > 1 && points.length > 2 ? { x: trunk, y: from.y } : undefined
      result.set(wire.id, {
        id: wire.id,
        path: chamfered(points),
        branch: turn,
        tag: { x: wire.to.x - 9, y: wire.to.y + shift * 2.6 },
        box: boundsOf(points),
      })
    }
  }
  return result
}

/** The last bit before a port: fanned-in lines come together only at the port itself. */
const arrival = (to: Point, shift: number): Point[] =>
  shift === 0 ? [to] : [{ x: to.x - STUB + 2, y: to.y + shift }, to]

/** A level run that would pass behind cards for long is led around above or below them. */
const blockedBy = (boxes: readonly Box[], x1: number, x2: number, y: number): Box | undefined =>
  boxes.find((box) => box.left < x2 - 6 && box.right > x1 + 6 && box.top - 3 < y && box.bottom + 3 > y)

const forwardPoints = (
  wire: Wire,
  trunk: number,
  shift: number,
  boxes: readonly Box[],
  verticals: Lanes,
  horizontals: Lanes,
): Point[] => {
  const { from, to, source } = wire
  const y = to.y + shift
  const block = blockedBy(boxes, trunk, to.x - STUB, y)
  if (!block) return [from, { x: trunk, y: from.y }, { x: trunk, y }, ...arrival(to, shift)]
  const over =
    Math.abs(from.y - block.top) + Math.abs(y - block.top) <
    Math.abs(from.y - block.bottom) + Math.abs(y - block.bottom)
  const lane = horizontals.place(
    source,
    over ? block.top - 10 : block.bottom + 10,
    trunk,
    to.x,
    -Infinity,
    Infinity,
  )
  const last = verticals.place(source, to.x - STUB - 4, lane, y, to.x - 90, to.x - STUB)
  return [
    from,
    { x: trunk, y: from.y },
    { x: trunk, y: lane },
    { x: last, y: lane },
    { x: last, y },
    ...arrival(to, shift),
  ]
}

const backwardPoints = (
  wire: Wire,
  trunk: number,
  shift: number,
  boxes: readonly Box[],
  verticals: Lanes,
  horizontals: Lanes,
): Point[] => {
  const { from, to, source } = wire
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
  const lane = horizontals.place(
    source,
    gap ?? below,
    left,
    right,
    gap === undefined ? -Infinity : gap - 14,
    gap === undefined ? Infinity : gap + 14,
  )
  const last = verticals.place(source, to.x - STUB - 4, lane, to.y + shift, to.x - 120, to.x - STUB)
  return [
    from,
    { x: trunk, y: from.y },
    { x: trunk, y: lane },
    { x: last, y: lane },
    { x: last, y: to.y + shift },
    ...arrival(to, shift),
  ]
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
