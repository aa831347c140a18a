/** Amounts stand at the ends of their cables: over no card, no other cable and no other amount. */
import type { Ground } from './ground.ts'
import type { Runs } from './runs.ts'
import type { Box, Point, Route, Wire } from './routing.ts'

export const TAG_HEIGHT = 16
/** So far from the port a tag ends, and so far from its line it stands. */
const FROM_PORT = 9,
  OFF_LINE = 1
const STEP = 5
/** So far from its end a stretch is looked along. */
const REACH = 400

export interface TagField {
  readonly ground: Ground
  readonly verticals: Runs
  readonly horizontals: Runs
}

/** Where tags stand already, by columns of so many pixels. */
const COLUMN = 256

export class Taken {
  private readonly columns = new Map<number, Box[]>()

  add(box: Box): void {
    const column = Math.floor(box.left / COLUMN),
      there = this.columns.get(column)
    if (there) there.push(box)
    else this.columns.set(column, [box])
  }

  /** How many of them a box touches. */
  touched({ left, right, top, bottom }: Box): number {
    let count = 0
    // A tag is never wider than a column.
    for (let column = Math.floor(left / COLUMN) - 1; column <= Math.floor(right / COLUMN); column += 1)
      for (const other of this.columns.get(column) ?? [])
        if (left < other.right && right > other.left && top < other.bottom && bottom > other.top) count += 1
    return count
  }
}

/** Where a tag so wide stands on a route. */
export const tagBox = ({ tag: { x, y } }: Route, width: number): Box => ({
  left: x - width,
  right: x,
  top: y - TAG_HEIGHT,
  bottom: y,
})

/** Where the tag of a cable would stand best, whatever else is there. */
export const wantedTag = (to: Point, width: number): Box => ({
  left: to.x - FROM_PORT - width,
  right: to.x - FROM_PORT,
  top: to.y - OFF_LINE - TAG_HEIGHT,
  bottom: to.y - OFF_LINE,
})

/** Places along a way from its end: over and under level stretches, across upright ones. */
const placesAlong = function* (points: readonly Point[], width: number): Generator<Box> {
  for (let at = points.length - 1; at > 0; at -= 1) {
    const a = points[at - 1]!,
      b = points[at]!
    if (a.y === b.y) {
      const left = Math.min(a.x, b.x),
        right = Math.max(a.x, b.x) - (at === points.length - 1 ? FROM_PORT : 2)
      for (let x = right; (x - width >= left && x > right - REACH) || x === right; x -= STEP)
        for (const top of [a.y - OFF_LINE - TAG_HEIGHT, a.y + OFF_LINE + 1])
          yield { left: x - width, right: x, top, bottom: top + TAG_HEIGHT }
    } else if (a.x === b.x) {
      const down = b.y > a.y ? -1 : 1,
        length = Math.min(REACH, Math.abs(b.y - a.y))
      for (let along = TAG_HEIGHT; along < length - TAG_HEIGHT; along += STEP) {
        const top = b.y + down * along - TAG_HEIGHT / 2
        for (const left of [a.x - width / 2, a.x - OFF_LINE - width, a.x + OFF_LINE])
          yield { left, right: left + width, top, bottom: top + TAG_HEIGHT }
      }
    }
  }
}

/** Where a tag stands, and whether it is on nothing there. */
export interface TagPlace {
  readonly box: Box
  readonly isFree: boolean
}

/** The first place along a way, from its end, at which a tag is on nothing; the one with least below it where there is none. */
export const tagPlace = (
  { ground, verticals, horizontals }: TagField,
  owner: string,
  points: readonly Point[],
  width: number,
  taken: Taken,
): TagPlace => {
  const end = points.at(-1)!
  let best = wantedTag(end, width),
    least = Infinity
  for (const box of placesAlong(points, width)) {
    const cards = ground.within(box.left - 1, box.top, box.right + 1, box.bottom).length,
      across: [number, number] = [box.left, box.right],
      down: [number, number] = [box.top, box.bottom]
    const lines = verticals.within(owner, across, down) + horizontals.within(owner, down, across)
    const cost = 8 * cards + lines + 6 * taken.touched(box)
    if (cost < least) {
      best = box
      least = cost
    }
    if (cost === 0) return { box, isFree: true }
  }
  return { box: best, isFree: false }
}

/** Places for the amounts of cables, one after the other, and what they take. */
export const tagPlaces = (
  field: TagField,
  wires: readonly Wire[],
  wayOf: (id: string) => readonly Point[],
): { readonly places: ReadonlyMap<string, TagPlace>; readonly taken: Taken } => {
  const taken = new Taken(),
    places = new Map<string, TagPlace>()
  for (const { id, tag = 0 } of wires) {
    const place = tagPlace(field, id, wayOf(id), tag, taken)
    taken.add(place.box)
    places.set(id, place)
  }
  return { places, taken }
}
