/** Room for cards that have grown by an edit: those below them are pushed down, and what they push in turn. */
import { levelPatch } from '../patch/levels.ts'
import { patchIndex } from '../patch/index.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { cardHeight, usedRows } from './card.ts'
import { cardRect, type Place, type Rect } from './free.ts'
import { GRID } from './grid.ts'

const isOver = (a: Rect, b: Rect): boolean =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height + GRID

/** Can a module's card have another height than before? */
const mayDiffer = (before: Patch, after: Patch, was: PatchModule, is: PatchModule): boolean => {
  if (was !== is) return true
  if (before.cables === after.cables) return false
  const [old, now] = [usedRows(before, was), usedRows(after, is)]
  return old !== now && (old.size !== now.size || [...now].some((name) => !old.has(name)))
}

/** Cards of a level that are higher than before, with the height they had. */
const grownOn = (before: Patch, after: Patch): Map<string, number> => {
  const grown = new Map<string, number>(),
    { module: known } = patchIndex(before)
  for (const module of after.modules) {
    const was = known.get(module.id)
    if (!was || !mayDiffer(before, after, was, module)) continue
    const height = cardHeight(before, was)
    if (cardHeight(after, module) > height) grown.set(module.id, height)
  }
  return grown
}

const pushedOn = (before: Patch, after: Patch, places: Map<string, Place>): void => {
  const grown = grownOn(before, after)
  if (grown.size === 0) return
  const rects = new Map(after.modules.map((module) => [module.id, cardRect(after, module)]))
  // Each with where it ended before: only what stood below that is pushed.
  const open = [...grown].map(([id, height]) => ({ id, bottom: rects.get(id)!.y + height }))
  for (let next = open.shift(); next; next = open.shift()) {
    const { id, bottom } = next,
      rect = rects.get(id)!
    for (const [other, below] of rects) {
      if (other === id || below.y < bottom || !isOver(below, rect)) continue
      const y = Math.ceil((rect.y + rect.height + GRID) / GRID) * GRID
      if (y <= below.y) continue
      open.push({ id: other, bottom: below.y + below.height })
      rects.set(other, { ...below, y })
      places.set(other, { x: below.x, y })
    }
  }
}

/** Where cards go that an edit would leave covered by others that have grown by it; none where nothing has grown. */
export const roomFor = (before: Patch, after: Patch): ReadonlyMap<string, Place> => {
  const places = new Map<string, Place>()
  if (before.modules === after.modules && before.cables === after.cables) return places
  pushedOn(before, after, places)
  for (const { module } of patchIndex(after).modules) {
    const was = module.inside && patchIndex(before).module.get(module.id)
    if (was?.inside && was !== module)
      pushedOn(levelPatch(before, was.id), levelPatch(after, module.id), places)
  }
  return places
}
