/** Cards in hand: pressed, dragged on the grid, and written where they are let go. */
import { CARD_WIDTH, patchIndex, placeModules, snap, throughPorts } from '@ypsilon/core'
import type { App } from '../../app/app.ts'
import { insertModule } from '../edits.ts'
import { CLICK_PX } from './cable-hand.ts'
import type { Gesture } from './gesture.ts'
import { nearestCable } from './near-cable.ts'
import { apart } from './port-finder.ts'
import type { Point } from './routing.ts'
import type { Scene } from './scene.ts'

export interface DragParts {
  readonly app: App
  readonly scene: Scene
  readonly end: () => void
}

/** How a card was pressed. */
export interface CardPress {
  readonly id: string
  /** At a place that moves it. */
  readonly isGrip: boolean
  readonly wasSelected: boolean
  readonly hasRows: boolean
}

/** A card is put into a cable that passes so near its middle, as a share of its size. */
const INTO = 0.35

/** The document is written when cards are let go. */
const moveTo = ({ app, scene }: DragParts, places: ReadonlyMap<string, Point>): void => {
  const { module: modules } = patchIndex(app.document.getState().patch)
  const isMoved = [...places].some(([id, { x, y }]) => {
    const module = modules.get(id)
    return module?.x !== x || module.y !== y
  })
  const name = places.size === 1 ? 'Move a module' : `Move ${places.size} modules`
  const isTaken =
    isMoved &&
    app.document.getState().change(name, (draft) => {
      placeModules(draft, places)
    })
  if (!isTaken) scene.letGo()
}

export const cardDrag = (parts: DragParts, press: CardPress, start: Point): Gesture => {
  const { scene, app, end } = parts,
    { id, isGrip, wasSelected, hasRows } = press
  const begin = scene.view.toChart(start),
    ids = app.workspace.getState().selection
  const from = new Map(
    ids.flatMap((one) => {
      const card = scene.cards.get(one)
      return card ? [[one, { x: card.x, y: card.y }] as const] : []
    }),
  )
  const lead = from.get(id) ?? { x: 0, y: 0 }
  let places: Map<string, Point> | undefined, into: string | undefined
  /** The cable that a card without any would go into: the one under its middle. */
  const cableUnder = (): string | undefined => {
    const card = scene.cards.get(id),
      place = places?.get(id),
      { patch } = app.document.getState()
    if (!card || !place || ids.length !== 1 || card.used.size > 0) return undefined
    const found = nearestCable(
      scene.lines,
      { x: place.x + CARD_WIDTH / 2, y: place.y + card.layout.height / 2 },
      Math.max(card.layout.height / 2, CARD_WIDTH / 2) * INTO,
      id,
    )
    return found !== undefined && throughPorts(patch, found, card.module) ? found : undefined
  }
  return {
    move: (point) => {
      if (!isGrip || (!places && apart(point, start) < CLICK_PX)) return
      const { x, y } = scene.view.toChart(point)
      const dx = snap(lead.x + x - begin.x) - lead.x,
        dy = snap(lead.y + y - begin.y) - lead.y
      places = new Map([...from].map(([one, place]) => [one, { x: place.x + dx, y: place.y + dy }]))
      scene.hold(places)
      into = cableUnder()
      scene.point(into === undefined ? {} : { cable: into })
    },
    drop: () => {
      end()
      scene.point({})
      if (places && into !== undefined) insertModule(app, into, id, places.get(id))
      else if (places) moveTo(parts, places)
      else if (wasSelected && ids.length > 1) app.workspace.getState().select([id])
      else if (wasSelected && !hasRows) scene.loupes.open(id, 'pointer')
    },
    giveUp: () => {
      scene.point({})
      scene.letGo()
    },
  }
}
