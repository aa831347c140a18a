/** A module with what feeds it and what it feeds, brought near each other for a while; nothing of it is in the patch. */
import { patchIndex } from '../patch/index.ts'
import { cardOf } from '../patch/levels.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { CARD_WIDTH, cardHeight } from './card.ts'
import type { Place } from './free.ts'
import { GRID, snap } from './grid.ts'

/** Between columns there is room for cables, between cards for a name. */
const ACROSS = CARD_WIDTH + 8 * GRID,
  DOWN = 2 * GRID

interface Near {
  readonly before: readonly string[]
  readonly after: readonly string[]
}

/** Modules that cables lead from and to, each once; what does both comes before. */
const nearOf = (level: Patch, id: string): Near => {
  const before = new Set<string>(),
    after = new Set<string>()
  for (const { from, to } of level.cables) {
    const source = cardOf(level, from)?.id,
      target = cardOf(level, to)?.id
    if (source === undefined || target === undefined || source === target) continue
    if (target === id) before.add(source)
    if (source === id) after.add(target)
  }
  return { before: [...before], after: [...after].filter((one) => !before.has(one)) }
}

/** Where they stand: the module where it is, what feeds it left of it, what it feeds right, each in a column in the order of their heights. */
export const focusPlaces = (level: Patch, id: string): ReadonlyMap<string, Place> => {
  const { module: modules } = patchIndex(level)
  const middle = modules.get(id)
  if (!middle) return new Map()
  const { x = 0, y = 0 } = middle,
    half = cardHeight(level, middle) / 2
  const places = new Map<string, Place>([[id, { x, y }]])
  const column = (ids: readonly string[], left: number): void => {
    const cards = ids
      .map((one) => modules.get(one))
      .filter((module): module is PatchModule => module !== undefined)
      .sort((a, b) => (a.y ?? 0) - (b.y ?? 0))
    const whole = cards.reduce((sum, card) => sum + cardHeight(level, card) + DOWN, -DOWN)
    let top = snap(y + half - whole / 2)
    for (const card of cards) {
      places.set(card.id, { x: left, y: top })
      top = snap(top + cardHeight(level, card) + DOWN)
    }
  }
  const { before, after } = nearOf(level, id)
  column(before, x - ACROSS)
  column(after, x + ACROSS)
  return places
}
