/** Which cards are on the page: those in view and half a screen around it, with rows where they can be read. */
import type { PlacedCard, Places } from './places.ts'
import { Grid } from './grid.ts'
import { type Viewport } from './viewport.ts'

export interface SeenCard {
  readonly card: PlacedCard
  /** Shown with all its rows; else as a sounding. */
  readonly hasRows: boolean
}

/** Screens around the view that are kept ready. */
export const OVERSCAN = 0.5
const CELL = 400
/** Cards that get their rows in one frame: while the chart moves, and at rest. */
const ROWS_MOVING = 2,
  ROWS_AT_REST = 3

export class Seen {
  private grid = new Grid<string>(CELL)
  private readonly rows = new Set<string>()
  private cards: readonly SeenCard[] = []
  /** While rows can be read, the card the keyboard's focus is in stays, however far off it is. */
  focused: string | undefined

  constructor(private readonly view: Viewport) {}

  place(cards: Places['cards']): void {
    this.grid = new Grid(CELL)
    for (const { id, box } of cards.values()) this.grid.add(box, id)
  }

  /** Cards to be on the page, in the order of the patch; the same list while nothing has changed. */
  list(cards: Places['cards'], isNear: boolean): readonly SeenCard[] {
    const near = this.grid.within(this.view.area(OVERSCAN))
    if (!isNear) this.rows.clear()
    else if (this.focused !== undefined && cards.has(this.focused)) {
      near.add(this.focused)
      this.rows.add(this.focused)
    }
    for (const id of this.rows) if (!near.has(id)) this.rows.delete(id)
    const before = new Map(this.cards.map((seen) => [seen.card.id, seen]))
    const next: SeenCard[] = []
    for (const card of cards.values()) {
      if (!near.has(card.id)) continue
      const was = before.get(card.id),
        hasRows = this.rows.has(card.id)
      next.push(was?.card === card && was.hasRows === hasRows ? was : { card, hasRows })
    }
    const isSame =
      next.length === this.cards.length && next.every((seen, index) => seen === this.cards[index])
    if (!isSame) this.cards = next
    return this.cards
  }

  /** Gives rows to the cards next to the middle of the view that have none yet; false when all have. */
  more(): boolean {
    const { view } = this
    const { x, y } = view.toChart({ x: view.width / 2, y: view.height / 2 })
    const farness = ({ box }: PlacedCard): number =>
      Math.hypot((box.left + box.right) / 2 - x, (box.top + box.bottom) / 2 - y)
    const waiting = this.cards
      .filter(({ hasRows }) => !hasRows)
      .map(({ card }) => card)
      .sort((a, b) => farness(a) - farness(b))
    for (const { id } of waiting.slice(0, view.isMoving ? ROWS_MOVING : ROWS_AT_REST)) this.rows.add(id)
    return waiting.length > 0
  }

  /** Cards whose box holds a place of the chart, the one on top last. */
  at(cards: Places['cards'], x: number, y: number): readonly PlacedCard[] {
    const found = this.grid.within({ left: x, right: x, top: y, bottom: y })
    return [...cards.values()].filter(({ id }) => found.has(id))
  }

  /** Cards that touch a box. */
  within(box: PlacedCard['box']): ReadonlySet<string> {
    return this.grid.within(box)
  }
}
