/** Free places beside what stands on the canvas already. */
import type { Draft } from 'immer'
import { levelWith } from '../patch/levels.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { CARD_WIDTH, cardHeight, cardLayout } from './card.ts'
import { GRID, snap } from './grid.ts'

export interface Place {
  readonly x: number
  readonly y: number
}
export interface Rect extends Place {
  readonly width: number
  readonly height: number
}

/** How far a new card keeps from those that stand, and how far the next place to be tried is. */
const APART = GRID,
  ACROSS = CARD_WIDTH + 2 * GRID,
  DOWN = 8 * GRID
/** Rings of places that are tried around the wanted one. */
const RINGS = 12

const farness = ({ across, down }: { across: number; down: number }): number =>
  Math.sqrt((across * ACROSS) ** 2 + (down * DOWN) ** 2) + (across < 0 || down < 0 ? 1 : 0)

/** Steps to places around one, the nearest first: to the right and below before left and above. */
const STEPS = Array.from({ length: 2 * RINGS + 1 }, (_, n) => n - RINGS)
const AROUND = STEPS.flatMap((across) => STEPS.map((down) => ({ across, down }))).sort(
  (a, b) => farness(a) - farness(b),
)

const isApart = (a: Rect, b: Rect): boolean =>
  a.x >= b.x + b.width + APART ||
  a.x + a.width + APART <= b.x ||
  a.y >= b.y + b.height + APART ||
  a.y + a.height + APART <= b.y

/** The place nearest to a wanted one at which a rectangle touches none of those that are taken; on the grid. */
export const nearestFree = (taken: readonly Rect[], { x, y, width, height }: Rect): Place => {
  for (const { across, down } of AROUND) {
    const place = { x: snap(x + across * ACROSS), y: snap(y + down * DOWN) }
    if (taken.every((other) => isApart({ ...place, width, height }, other))) return place
  }
  return { x: snap(x), y: snap(y) }
}

/** Has it a place? */
export const isPlaced = ({ x, y }: PatchModule): boolean => x !== undefined && y !== undefined

/** Where a module's card stands, in its brief form. */
export const cardRect = (patch: Patch, module: PatchModule): Rect => ({
  x: module.x ?? 0,
  y: module.y ?? 0,
  width: CARD_WIDTH,
  height: cardHeight(patch, module),
})

/** Nearer than this a card would hide the head of another. */
const HIDING = 2 * GRID

/** Where a new module goes: the wanted place, or the free one nearest to it where it would hide another card. */
export const freePlace = (patch: Patch, type: string, x: number, y: number): Place => {
  const wanted = { x: snap(x), y: snap(y) }
  const hides = patch.modules.some(
    (module) =>
      Math.abs((module.x ?? 0) - wanted.x) < HIDING && Math.abs((module.y ?? 0) - wanted.y) < HIDING,
  )
  if (!hides) return wanted
  const { height } = cardLayout({ id: '', type }, new Set(), false)
  return nearestFree(
    patch.modules.map((module) => cardRect(patch, module)),
    { x, y, width: CARD_WIDTH, height },
  )
}

/** The rectangle around some others; an empty one at the origin where there are none. */
export const boundsOf = (rects: readonly Rect[]): Rect => {
  if (rects.length === 0) return { x: 0, y: 0, width: 0, height: 0 }
  const x = Math.min(...rects.map((rect) => rect.x)),
    y = Math.min(...rects.map((rect) => rect.y))
  return {
    x,
    y,
    width: Math.max(...rects.map((rect) => rect.x + rect.width)) - x,
    height: Math.max(...rects.map((rect) => rect.y + rect.height)) - y,
  }
}

/** Moves what has come to a level, as a whole, to where it covers nothing that stands there. */
export const settle = (draft: Draft<Patch>, ids: readonly string[]): void => {
  const level = ids.map((id) => levelWith(draft, id)).find((found) => found !== undefined)
  if (!level) return
  const rectOf = (module: Draft<PatchModule>): Rect =>
    cardRect(level as unknown as Patch, module as PatchModule)
  const came = level.modules.filter(({ id }) => ids.includes(id)),
    others = level.modules.filter(({ id }) => !ids.includes(id)).map(rectOf)
  const rect = boundsOf(came.map(rectOf)),
    place = nearestFree(others, rect)
  for (const module of came) {
    module.x = (module.x ?? 0) + place.x - rect.x
    module.y = (module.y ?? 0) + place.y - rect.y
  }
}
