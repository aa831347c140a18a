/** Where the number of an output's voices stands: at the start of its cables, over no line, no amount and no other number. */
import type { DrawnCable } from './places.ts'
import { type Box, cornersOf, type Point, type Route } from './routing.ts'
import { tagBox, Taken } from './tags.ts'
import { touches } from './viewport.ts'

/** Of the text at 100 %: width of a letter, height of a digit over the line it stands on. */
const LETTER = 7,
  DIGIT = 9
/** From the port, and from the line: over it or under it, as far along as a cable runs level. */
const BESIDE = [9, 6],
  STEP = 5,
  NEAR = 48,
  REACH = 160,
  OVER = [-6, -4],
  UNDER = [15, 13]
/** Half the width of the broadest line. */
const HALF_LINE = 2

const isCrossed = (way: Float64Array, { left, right, top, bottom }: Box): boolean => {
  for (let at = 2; at < way.length; at += 2) {
    const ax = way[at - 2]!,
      ay = way[at - 1]!,
      bx = way[at]!,
      by = way[at + 1]!
    // What is slanted is short: the box around it will do.
    if (
      Math.min(ax, bx) - HALF_LINE < right &&
      Math.max(ax, bx) + HALF_LINE > left &&
      Math.min(ay, by) - HALF_LINE < bottom &&
      Math.max(ay, by) + HALF_LINE > top
    )
      return true
  }
  return false
}

/** The room a text takes that begins at a place, its foot there. */
export const countBox = ({ x, y }: Point, text: string): Box => ({
  left: x,
  right: x + LETTER * text.length,
  top: y - DIGIT,
  bottom: y,
})

/** How far from its port the cables of an output run level. */
const levelReach = (
  cables: readonly DrawnCable[],
  source: string,
  wayOf: (route: Route) => Float64Array,
): number =>
  cables.reduce((most, cable) => {
    if (cable.source !== source) return most
    const way = wayOf(cable.route)
    let at = 2
    while (at + 2 < way.length && way[at + 1] === cable.from.y) at += 2
    return Math.max(most, Math.min(REACH, way[at - 2]! - cable.from.x, way[at]! - cable.from.x))
  }, 0)

/** Places beside a port and along its line, the nearest first. */
const placesFrom = function* ({ x, y }: Point, reach: number): Generator<Point> {
  const along = [...BESIDE]
  for (let far = BESIDE[0]! + STEP; far <= reach; far += STEP) along.push(far)
  for (const right of along) for (const down of [...OVER, ...UNDER]) yield { x: x + right, y: y + down }
}

/**
 * Where the text of each output begins, in chart pixels; the first place where it is on nothing, or none where it would
 * be on something everywhere.
 *
 * @param texts By output: what stands there.
 */
export const countPlaces = (
  cables: readonly DrawnCable[],
  texts: ReadonlyMap<string, string>,
  wayOf: (route: Route) => Float64Array = cornersOf,
): ReadonlyMap<string, Point> => {
  const places = new Map<string, Point>(),
    seen = new Set<string>()
  const taken = new Taken()
  for (const { tag = 0, route } of cables) if (tag > 0) taken.add(tagBox(route, tag))
  for (const { source, from } of cables) {
    const text = texts.get(source)
    if (text === undefined || seen.has(source)) continue
    seen.add(source)
    const reach = levelReach(cables, source, wayOf)
    for (const place of placesFrom(from, Math.max(NEAR, reach - LETTER * text.length))) {
      const box = countBox(place, text)
      const isFree =
        taken.touched(box) === 0 &&
        !cables.some(({ route }) => touches(route.box, box) && isCrossed(wayOf(route), box))
      if (!isFree) continue
      places.set(source, place)
      taken.add(box)
      break
    }
  }
  return places
}
