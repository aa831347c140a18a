/** Which cards are on the page, and as what: those in view and half a screen around it, with rows where they can be read. */
import type { Distance } from './distance.ts'
import { Grid } from './grid.ts'
import type { PlacedCard, Places } from './places.ts'
import type { Viewport } from './viewport.ts'

/** What cards are seen as at a zoom. */
export interface Look {
  readonly distance: Distance
  /** Chart pixels that a pixel of the screen is, in text of soundings. */
  readonly scale: number
}

export interface SeenCard extends Look {
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
/** Soundings that come and go in one frame while the chart moves. */
const COME = 3,
  GO = 4
/** Soundings in view whose text is set anew in one frame, or a share of them where that is more. */
const ANEW = 4,
  ANEW_SHARE = 1 / 14
/** Text that is off by less is left as it is; off by more it is set anew at once: it is never off by a fifth. */
const SOME_OFF = 0.07,
  MUST_OFF = 0.18

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
  list(cards: Places['cards'], look: Look): readonly SeenCard[] {
    const near = this.around(cards, look)
    return this.take(
      cards,
      (id) => near.has(id),
      look,
      () => true,
    )
  }

  /** The same, while the chart moves: a few cards come, go and are set anew at a time, those in view first. */
  listMoving(cards: Places['cards'], look: Look): readonly SeenCard[] {
    const near = this.around(cards, look),
      before = this.byId(),
      inView = this.grid.within(this.view.area())
    const some = (ids: Iterable<string>, most: number): ReadonlySet<string> => {
      const all = [...ids]
      const first = all.filter((id) => inView.has(id))
      return new Set([...first, ...all.filter((id) => !inView.has(id))].slice(0, most))
    }
    const coming = some(
      [...near].filter((id) => !before.has(id) && cards.has(id)),
      COME,
    )
    const going = some(
      [...before.keys()].filter((id) => !near.has(id)),
      GO,
    )
    const anew = this.toBeSet(look, inView)
    const stays = (id: string): boolean => coming.has(id) || (before.has(id) && !going.has(id))
    return this.take(cards, stays, look, (id) => coming.has(id) || anew.has(id))
  }

  /** Soundings whose text is set anew: those that are off by most, and all that must be. */
  private toBeSet({ scale: wanted }: Look, inView: ReadonlySet<string>): ReadonlySet<string> {
    const off = (seen: SeenCard): number => Math.abs(seen.scale * this.view.zoom - 1)
    const old = this.cards
      .filter((seen) => !seen.hasRows && seen.scale !== wanted && inView.has(seen.card.id))
      .map((seen) => ({ id: seen.card.id, off: off(seen) }))
      .filter((card) => card.off > SOME_OFF)
      .sort((a, b) => b.off - a.off)
    const most = Math.max(ANEW, Math.ceil(inView.size * ANEW_SHARE))
    return new Set(old.filter((card, index) => index < most || card.off > MUST_OFF).map(({ id }) => id))
  }

  private around(cards: Places['cards'], { distance }: Look): Set<string> {
    const near = this.grid.within(this.view.area(OVERSCAN))
    if (distance !== 'near') this.rows.clear()
    else if (this.focused !== undefined && cards.has(this.focused)) {
      near.add(this.focused)
      this.rows.add(this.focused)
    }
    for (const id of this.rows) if (!near.has(id)) this.rows.delete(id)
    return near
  }

  private byId(): ReadonlyMap<string, SeenCard> {
    return new Map(this.cards.map((seen) => [seen.card.id, seen]))
  }

  /** `isAnew`: cards that are seen as things look now; others as they were. */
  private take(
    cards: Places['cards'],
    isThere: (id: string) => boolean,
    look: Look,
    isAnew: (id: string) => boolean,
  ): readonly SeenCard[] {
    const before = this.byId(),
      next: SeenCard[] = []
    for (const card of cards.values()) {
      const { id } = card
      if (!isThere(id)) continue
      const was = before.get(id),
        hasRows = this.rows.has(id),
        { distance, scale } = was && !isAnew(id) ? was : look
      const isAsBefore = hasRows || (was?.distance === distance && was.scale === scale)
      const isSame = was?.card === card && was.hasRows === hasRows && isAsBefore
      next.push(isSame ? was : { card, hasRows, distance, scale })
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
