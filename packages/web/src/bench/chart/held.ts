/**
 * Cards in hand: their cables and port marks are drawn on a canvas over the others and their pictures are carried along;
 * nothing else of the chart is drawn.
 */
import { splitTarget } from '@ypsilon/core'
import type { DrawnCable, PlacedCable, PlacedCard, Places } from './places.ts'
import type { Box, Route } from './routing.ts'

const NOWHERE: Box = { left: 0, top: 0, right: 0, bottom: 0 }

export class Held {
  /** Cables that go to or from what is held. */
  readonly cables: ReadonlySet<string>
  /** Those, and the ones that share a trunk with them. */
  readonly routed: readonly PlacedCable[]
  /** Where the patch has its cards. */
  private readonly from: ReadonlyMap<string, PlacedCard>
  /** Cards it lies over. */
  private below: string | undefined
  private readonly carried: readonly HTMLCanvasElement[]

  constructor(
    private readonly elements: ReadonlyMap<string, HTMLElement>,
    readonly ids: ReadonlySet<string>,
    { cards, cables }: Places,
    copy: (box: Box) => HTMLCanvasElement | undefined,
  ) {
    this.from = cards
    const isOf = (end: string): boolean => ids.has(splitTarget(end)?.[0] ?? '')
    const own = [...cables.values()].filter(({ source, target }) => isOf(source) || isOf(target))
    this.cables = new Set(own.map(({ id }) => id))
    const sources = new Set(own.map(({ source }) => source))
    this.routed = [...cables.values()].filter(({ source }) => sources.has(source))
    this.carried = [...ids].flatMap((id) => {
      const card = cards.get(id),
        picture = card && copy(card.box)
      if (!picture) return []
      picture.className = 'carried'
      this.elements.get(id)?.append(picture)
      return [picture]
    })
  }

  /** Puts the cards where they are held. Given back: them and their cables, as they are to be drawn. */
  put(
    routes: ReadonlyMap<string, Route>,
    cards: ReadonlyMap<string, PlacedCard>,
  ): { readonly cables: readonly DrawnCable[]; readonly cards: readonly PlacedCard[] } {
    const held = [...this.ids].map((id) => cards.get(id)).filter((card) => card !== undefined)
    for (const card of held) this.move(card)
    const own = this.routed.flatMap((cable): DrawnCable[] => {
      const route = this.cables.has(cable.id) ? routes.get(cable.id) : undefined
      return route ? [{ ...cable, route }] : []
    })
    return { cables: own, cards: held }
  }

  /** Has it come over other cards, or away from them, since it was last asked? */
  covers(cardsIn: (box: Box) => ReadonlySet<string>, cards: ReadonlyMap<string, PlacedCard>): boolean {
    const below = [...this.ids].flatMap((id) => [...cardsIn(cards.get(id)?.box ?? NOWHERE)]).join(' ')
    const isOther = below !== this.below
    this.below = below
    return isOther
  }

  /** The card's element stands away from its place, as a layer of its own while it is held. */
  private move({ id, x, y }: PlacedCard): void {
    const found = this.elements.get(id),
      from = this.from.get(id)
    if (!found || !from) return
    found.dataset['held'] = 'true'
    found.style.transform = `translate(${x - from.x}px, ${y - from.y}px)`
  }

  /** Everything is back where the patch has it. */
  end(): void {
    for (const id of this.ids) {
      const found = this.elements.get(id)
      if (!found) continue
      delete found.dataset['held']
      found.style.transform = ''
    }
    for (const picture of this.carried) picture.remove()
  }
}
