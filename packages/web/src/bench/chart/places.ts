/** Cards and cables of a patch where they stand. What an edit did not touch keeps its object. */
import {
  type Cable,
  cardLayout,
  cardOf,
  type CardLayout,
  type Patch,
  outputKind,
  patchIndex,
  type PatchModule,
  type SignalKind,
  splitTarget,
  tagWidth,
  usedRows,
} from '@ypsilon/core'
import { boxOf, portPoint } from './geometry.ts'
import type { Box, Route, Wire } from './routing.ts'

export interface PlacedCard {
  readonly id: string
  readonly module: PatchModule
  readonly x: number
  readonly y: number
  readonly isOpen: boolean
  readonly layout: CardLayout
  readonly box: Box
  /** Names of its ports and parameters that have cables. */
  readonly used: ReadonlySet<string>
}

/** A cable with where it goes from and to. */
export interface PlacedCable extends Wire {
  readonly cable: Cable
  readonly kind: SignalKind
}

/** A cable with the way it takes. */
export interface DrawnCable extends PlacedCable {
  readonly route: Route
}

export interface Places {
  readonly patch: Patch
  /** In the order of the patch: later ones lie over earlier ones. */
  readonly cards: ReadonlyMap<string, PlacedCard>
  readonly cables: ReadonlyMap<string, PlacedCable>
}

/** A cable's id; cables of old files may have none. */
export const cableId = (cable: Cable): string => cable.id ?? `${cable.from}>${cable.to}`

/** What a cable carries: what its source produces. */
const kindOfCable = (patch: Patch, cable: Cable): SignalKind => {
  const [id = '', port = ''] = splitTarget(cable.from) ?? []
  return outputKind(patchIndex(patch).module.get(id), port)
}

const isSameSet = (a: ReadonlySet<string>, b: ReadonlySet<string>): boolean =>
  a === b || (a.size === b.size && [...a].every((name) => b.has(name)))

const placeCard = (
  module: PatchModule,
  used: ReadonlySet<string>,
  isOpen: boolean,
  before: PlacedCard | undefined,
): PlacedCard => {
  if (before?.module === module && before.isOpen === isOpen && isSameSet(before.used, used)) return before
  const { id, x = 0, y = 0 } = module
  const layout = cardLayout(module, used, isOpen)
  const isThere = before?.layout === layout && before.x === x && before.y === y
  return {
    id,
    module,
    x,
    y,
    isOpen,
    layout,
    box: isThere ? before.box : boxOf(layout, x, y),
    used: before && isSameSet(before.used, used) ? before.used : used,
  }
}

/** Do two cards look the same to cables and ports? */
export const isSameGround = (a: PlacedCard, b: PlacedCard): boolean =>
  a === b || (a.box === b.box && a.layout === b.layout && a.used === b.used)

/** The same card at another place. */
export const cardAt = (card: PlacedCard, x: number, y: number): PlacedCard => ({
  ...card,
  x,
  y,
  box: boxOf(card.layout, x, y),
})

/** A cable as it goes between cards; undefined where an end has none. */
export const placeCable = (
  patch: Patch,
  cable: Cable,
  cards: ReadonlyMap<string, PlacedCard>,
  before?: PlacedCable,
): PlacedCable | undefined => {
  const a = cardOf(patch, cable.from),
    b = cardOf(patch, cable.to)
  const start = a && cards.get(a.id),
    end = b && cards.get(b.id)
  if (!start || !end) return undefined
  const from = portPoint(start.layout, start.x, start.y, a.name, 'out'),
    to = portPoint(end.layout, end.x, end.y, b.name, 'in')
  const isSame =
    before?.cable === cable &&
    before.from.x === from.x &&
    before.from.y === from.y &&
    before.to.x === to.x &&
    before.to.y === to.y
  if (isSame) return before
  const { from: source, to: target } = cable
  const kind = kindOfCable(patch, cable)
  return { id: cableId(cable), source, target, from, to, cable, kind, tag: tagWidth(patch, cable) }
}

/** Cables as they go between cards. */
const cablesBetween = (
  patch: Patch,
  cards: ReadonlyMap<string, PlacedCard>,
  before?: ReadonlyMap<string, PlacedCable>,
): Map<string, PlacedCable> => {
  const cables = new Map<string, PlacedCable>()
  for (const cable of patch.cables) {
    const placed = placeCable(patch, cable, cards, before?.get(cableId(cable)))
    if (placed) cables.set(placed.id, placed)
  }
  return cables
}

const isSameMap = <T>(a: ReadonlyMap<string, T>, b: ReadonlyMap<string, T>): boolean =>
  a.size === b.size && [...a].every(([key, value]) => b.get(key) === value)

/** Does every card stand where it did, with its ports? */
const isGroundKept = (a: Places['cards'], b: Places['cards']): boolean =>
  a === b ||
  (a.size === b.size &&
    [...a].every(([id, card]) => {
      const other = b.get(id)
      return other !== undefined && isSameGround(card, other)
    }))

/** Where everything of a patch stands. */
export const placesOf = (patch: Patch, open: ReadonlySet<string>, before?: Places): Places => {
  const cards = new Map(
    patch.modules.map((module) => [
      module.id,
      placeCard(module, usedRows(patch, module), open.has(module.id), before?.cards.get(module.id)),
    ]),
  )
  const kept = before && isSameMap(before.cards, cards) ? before.cards : cards
  if (before?.patch.cables === patch.cables && isGroundKept(before.cards, kept))
    return { patch, cards: kept, cables: before.cables }
  const cables = cablesBetween(patch, kept, before?.cables)
  return { patch, cards: kept, cables: before && isSameMap(before.cables, cables) ? before.cables : cables }
}
