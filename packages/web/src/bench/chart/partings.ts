/** Where cables of one source part: a dot is drawn there. */
import { CORNER, type Point } from './routing.ts'

/** With so many before it of its source a cable's parting is looked for. */
export const MOST_COMPARED = 16

/** The corner at which a way leaves another of the same source, and how far along it is. */
const partingOf = (
  way: readonly Point[],
  other: readonly Point[],
): { readonly at: Point; readonly along: number } | undefined => {
  let [at] = way,
    along = 0
  for (let i = 1, j = 1; i < way.length && j < other.length;) {
    const a = way[i]!,
      b = other[j]!,
      ax = a.x - at!.x,
      ay = a.y - at!.y,
      bx = b.x - at!.x,
      by = b.y - at!.y
    const isSame = ax * by === ay * bx && ax * bx + ay * by > 0
    if (!isSame) break
    const [la, lb] = [Math.abs(ax) + Math.abs(ay), Math.abs(bx) + Math.abs(by)]
    at = la <= lb ? a : b
    along += Math.min(la, lb)
    if (la <= lb) i += 1
    if (lb <= la) j += 1
  }
  return at && along > 0 ? { at, along } : undefined
}

/** A little before a corner of a way: corners are cut off there. */
const steppedBack = (way: readonly Point[], at: Point): Point => {
  for (let i = 1; i < way.length; i += 1) {
    const a = way[i - 1]!,
      b = way[i]!
    const isOn =
      (a.x === b.x && b.x === at.x && (at.y - a.y) * (at.y - b.y) <= 0) ||
      (a.y === b.y && b.y === at.y && (at.x - a.x) * (at.x - b.x) <= 0)
    if (!isOn) continue
    const length = Math.abs(at.x - a.x) + Math.abs(at.y - a.y)
    if (length === 0) continue
    const cut = Math.min(CORNER, length / 2)
    return { x: at.x - ((at.x - a.x) / length) * cut, y: at.y - ((at.y - a.y) / length) * cut }
  }
  return at
}

/** Where a way leaves those of the same source that come before it. */
export const branchFrom = (
  way: readonly Point[],
  earlier: readonly (readonly Point[])[],
): Point | undefined => {
  let best: ReturnType<typeof partingOf>
  for (const other of earlier) {
    const parting = partingOf(way, other)
    if (parting && parting.along > (best?.along ?? 0)) best = parting
  }
  return best && steppedBack(way, best.at)
}
