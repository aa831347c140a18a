/** Which port or row is meant at a place of the chart: found by where they stand, at every distance and in loupes. */
import { type PortPlace, rowTarget, type SignalKind } from '@ypsilon/core'
import { outputAt, rowAt } from './geometry.ts'
import { SIDE_PX } from './loupes.ts'
import type { PlacedCard } from './places.ts'
import type { Point } from './routing.ts'
import type { Scene } from './scene.ts'

/** The nearest port within this of the pointer is the one meant. */
const PORT_PX = 12

export interface PortHit {
  /** `osc.saw` */
  readonly port: string
  readonly id: string
  readonly side: 'in' | 'out'
  readonly kind: SignalKind
  /** Where it is in the frame. */
  readonly at: Point
}

/** A port or a row that takes a cable. */
export type Target = Pick<PortHit, 'port' | 'side'>

export const apart = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y)

export class PortFinder {
  constructor(private readonly scene: Scene) {}

  /** The port that is meant at a place of the frame. */
  portAt(point: Point): PortHit | undefined {
    const { scene } = this
    const loupe = scene.loupes.at(point) ?? this.loupeBeside(point)
    if (loupe) return this.nearest(point, [loupe.card], true, (port) => this.inLoupe(loupe, port))
    const { x, y } = scene.view.toChart(point),
      around = PORT_PX / scene.view.zoom
    const ids = scene.cardsIn({ left: x - around, right: x + around, top: y - around, bottom: y + around })
    const cards = [...ids].map((id) => scene.cards.get(id)).filter((card) => card !== undefined)
    const hasAll = scene.store.getState().distance !== 'far'
    return this.nearest(point, cards, hasAll, (port, card) =>
      scene.view.toFrame({ x: card.x + port.x, y: card.y + port.y }),
    )
  }

  /** A loupe whose edge is near: its ports stand on it. */
  private loupeBeside(point: Point): ReturnType<Scene['loupes']['at']> {
    const { loupes } = this.scene
    return loupes.at({ x: point.x + PORT_PX, y: point.y }) ?? loupes.at({ x: point.x - PORT_PX, y: point.y })
  }

  private inLoupe(
    { card, box }: NonNullable<ReturnType<Scene['loupes']['at']>>,
    { x, y }: PortPlace,
  ): Point | undefined {
    const top = box.top + 1 + y - (this.scene.loupes.scrolled.get(card.id) ?? 0)
    if (top < box.top || top > box.bottom) return undefined
    return { x: x === 0 ? box.left + SIDE_PX : box.right - SIDE_PX, y: top }
  }

  /** `hasAll`: ports that are not in use are there as well. */
  private nearest(
    point: Point,
    cards: readonly PlacedCard[],
    hasAll: boolean,
    placeOf: (port: PortPlace, card: PlacedCard) => Point | undefined,
  ): PortHit | undefined {
    let found: PortHit | undefined,
      least = PORT_PX
    for (const card of cards)
      for (const port of card.layout.ports.values()) {
        const at = placeOf(port, card)
        if (!at || (!hasAll && !card.used.has(port.name))) continue
        const away = apart(point, at)
        if (away > least) continue
        least = away
        found = { port: rowTarget(card.id, port.name), id: card.id, side: port.side, kind: port.kind, at }
      }
    return found
  }

  /** The row under a place: an input or parameter that takes a cable, or an output. */
  private rowAt(point: Point): Target | undefined {
    const { scene } = this
    const loupe = scene.loupes.at(point)
    const card =
      loupe?.card ??
      (this.scene.store.getState().distance === 'near' ? scene.cardAt(scene.view.toChart(point)) : undefined)
    if (!card) return undefined
    const down = loupe
      ? point.y - loupe.box.top - 1 + (scene.loupes.scrolled.get(card.id) ?? 0)
      : scene.view.toChart(point).y - card.y
    const input = rowAt(card.layout, down),
      output = outputAt(card.layout, down)
    if (input !== undefined) return { port: rowTarget(card.id, input), side: 'in' }
    return output === undefined ? undefined : { port: rowTarget(card.id, output), side: 'out' }
  }

  /** A port or row that a cable end may be let go at. */
  targetAt(point: Point): Target | undefined {
    return this.portAt(point) ?? this.rowAt(point)
  }
}
