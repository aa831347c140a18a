/** Loupes: whole cards at reading size over their places, for as long as they are used. */
import { CARD_WIDTH } from '@ypsilon/core'
import type { PlacedCard } from './places.ts'
import type { Box, Point } from './routing.ts'
import type { Viewport } from './viewport.ts'

export interface Loupe {
  readonly id: string
  /** What opened it: what the pointer did goes when the pointer does. */
  readonly how: 'pointer' | 'key' | 'hand'
  readonly isPinned: boolean
}

/** The pointer has to rest so long on a card's body, so far from its edges. */
const REST_MS = 450,
  EDGE_PX = 14
/** With a cable in hand it is there as soon as the pointer stays: what is only crossed opens nothing. */
const HAND_MS = 90
/** After a button or the wheel nothing opens by itself for so long. */
const CALM_MS = 300
/** It stays while the pointer is so near. */
const AROUND_PX = 24
/** What is under the pointer when it opens does nothing before the pointer has moved so far. */
const AWAKE_PX = 4
const MARGIN = 8
/** Room at each side for the marks of ports, and its frame. */
export const SIDE_PX = 8
const RULE = 2

/** Where a loupe stands in the frame of the chart. */
export const loupeBox = ({ x, y, layout }: PlacedCard, view: Viewport): Box => {
  const at = view.toFrame({ x: x + CARD_WIDTH / 2, y })
  const width = CARD_WIDTH + 2 * SIDE_PX + RULE,
    height = Math.min(layout.height + RULE, view.height - 2 * MARGIN)
  const within = (wanted: number, room: number): number => Math.max(MARGIN, Math.min(wanted, room - MARGIN))
  const left = within(at.x - width / 2, view.width - width),
    top = within(at.y, view.height - height)
  return { left, top, right: left + width, bottom: top + height }
}

const isNear = ({ left, top, right, bottom }: Box, { x, y }: Point, around: number): boolean =>
  x >= left - around && x <= right + around && y >= top - around && y <= bottom + around

export interface LoupesParts {
  readonly view: Viewport
  readonly cards: () => ReadonlyMap<string, PlacedCard>
  readonly get: () => readonly Loupe[]
  readonly set: (loupes: readonly Loupe[]) => void
  /** Are there rows on the chart already? */
  readonly isNeeded: () => boolean
}

export class Loupes {
  /** How far each is scrolled. */
  readonly scrolled = new Map<string, number>()
  /** Elements of those on the page. */
  readonly elements = new Map<string, HTMLElement>()
  private timer: ReturnType<typeof setTimeout> | undefined
  private waiting: { readonly id: string; readonly at: Point } | undefined
  private busyAt = -Infinity
  private openedAt: Point | undefined

  constructor(private readonly parts: LoupesParts) {}

  open(id: string, how: Loupe['how'], at?: Point): void {
    const { get, set, isNeeded, cards } = this.parts
    if (!isNeeded() || !cards().has(id) || get().some((loupe) => loupe.id === id)) return
    this.forget()
    this.openedAt = how === 'pointer' ? at : undefined
    set([...get().filter(({ isPinned }) => isPinned), { id, how, isPinned: false }])
  }

  close(id: string): void {
    this.scrolled.delete(id)
    this.parts.set(this.parts.get().filter((loupe) => loupe.id !== id))
  }

  /** Closes the one on top, which is given back. */
  closeTop(): Loupe | undefined {
    const top = this.parts.get().at(-1)
    if (top) this.close(top.id)
    return top
  }

  pin(id: string): void {
    const { get, set } = this.parts
    set(get().map((loupe) => (loupe.id === id ? { ...loupe, isPinned: !loupe.isPinned } : loupe)))
  }

  /** Those that are not kept close; those of cards that are gone as well. */
  tidy(all = false): void {
    const { get, set, cards } = this.parts
    const left = get().filter(({ id, isPinned }) => isPinned && !all && cards().has(id))
    if (left.length !== get().length) set(left)
  }

  /** A button was pressed or the wheel turned: nothing opens by itself for a while. */
  busy(): void {
    this.busyAt = performance.now()
    this.forget()
  }
  private forget(): void {
    clearTimeout(this.timer)
    this.timer = undefined
    this.waiting = undefined
  }

  /** The loupe on top at a place of the frame. */
  at(point: Point): { readonly card: PlacedCard; readonly box: Box } | undefined {
    const cards = this.parts.cards()
    for (const { id } of this.parts.get().toReversed()) {
      const card = cards.get(id)
      if (!card) continue
      const box = loupeBox(card, this.parts.view)
      if (isNear(box, point, 0)) return { card, box }
    }
    return undefined
  }

  /** The pointer moves over the chart, with a card under it or none. */
  pointer(point: Point, card: PlacedCard | undefined): void {
    this.leave(point)
    if (this.openedAt && Math.hypot(point.x - this.openedAt.x, point.y - this.openedAt.y) >= AWAKE_PX)
      this.wake()
    if (!card || this.at(point) || !this.parts.isNeeded() || !this.isOnBody(card, point)) {
      this.forget()
      return
    }
    const moved = this.waiting && Math.hypot(point.x - this.waiting.at.x, point.y - this.waiting.at.y) > 2
    if (this.waiting?.id === card.id && !moved) return
    this.forget()
    if (performance.now() - this.busyAt < CALM_MS) return
    this.waiting = { id: card.id, at: point }
    this.timer = setTimeout(() => {
      this.open(card.id, 'pointer', point)
    }, REST_MS)
  }

  /** A cable in hand is over a card, or over none. */
  hand(point: Point, id: string | undefined): void {
    this.leave(point)
    if (id === undefined || this.at(point)) {
      this.forget()
      return
    }
    if (this.waiting?.id === id) return
    this.forget()
    this.waiting = { id, at: point }
    this.timer = setTimeout(() => {
      this.open(id, 'hand')
    }, HAND_MS)
  }

  /** The pointer has left the chart. */
  away(): void {
    this.forget()
  }

  private isOnBody({ x, y, layout }: PlacedCard, point: Point): boolean {
    const { view } = this.parts,
      from = view.toFrame({ x, y }),
      to = view.toFrame({ x: x + CARD_WIDTH, y: y + layout.height })
    return (
      point.x >= from.x + EDGE_PX &&
      point.x <= to.x - EDGE_PX &&
      point.y >= from.y + EDGE_PX &&
      point.y <= to.y - EDGE_PX
    )
  }

  /** Its controls do nothing yet: it has opened under a pointer that rests. */
  isInert(id: string): boolean {
    const loupe = this.parts.get().find((item) => item.id === id)
    return loupe?.how === 'pointer' && this.openedAt !== undefined
  }

  private wake(): void {
    this.openedAt = undefined
    for (const element of this.elements.values()) element.dataset['inert'] = 'false'
  }

  /** What the pointer opened goes when the pointer is away from it, and nothing in it is used. */
  private leave(point: Point): void {
    const { get, set, cards, view } = this.parts
    const stays = ({ id, how, isPinned }: Loupe): boolean => {
      if (isPinned || how === 'key') return true
      const card = cards().get(id)
      if (!card) return false
      const isUsed = this.elements.get(id)?.contains(document.activeElement) === true
      return isUsed || isNear(loupeBox(card, view), point, AROUND_PX)
    }
    const left = get().filter(stays)
    if (left.length !== get().length) set(left)
  }
}
