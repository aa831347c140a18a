/** Cards as cables see them: what a stretch of line passes behind, and where there is room between them. */
import type { Box, Point } from './routing.ts'

/** Boxes are kept by columns of so many pixels. */
const COLUMN = 256
/** So near its edge a line looks as if it went behind a card. */
const NEAR = 3

interface Behind {
  readonly cards: number
  readonly length: number
}

export class Ground {
  private readonly columns = new Map<number, Box[]>()

  constructor(boxes: readonly Box[]) {
    for (const box of boxes)
      for (let at = Math.floor(box.left / COLUMN); at <= Math.floor(box.right / COLUMN); at += 1) {
        const there = this.columns.get(at)
        if (there) there.push(box)
        else this.columns.set(at, [box])
      }
  }

  /** Boxes that reach into an area, each once. */
  within(left: number, top: number, right: number, bottom: number): Box[] {
    const found: Box[] = [],
      first = Math.floor(left / COLUMN)
    for (let at = first; at <= Math.floor(right / COLUMN); at += 1)
      for (const box of this.columns.get(at) ?? []) {
        // A box in several columns is met in the first of them that is looked at.
        if (at > first && Math.floor(box.left / COLUMN) < at) continue
        if (box.left < right && box.right > left && box.top < bottom && box.bottom > top) found.push(box)
      }
    return found
  }

  /** Cards a way passes behind. */
  cardsOn(way: readonly Point[]): number {
    let cards = 0
    for (let at = 1; at < way.length; at += 1) {
      const a = way[at - 1]!,
        b = way[at]!
      if (a.x === b.x || a.y === b.y) cards += this.behind(a.x, a.y, b.x, b.y).cards
    }
    return cards
  }

  /** What a level or upright stretch passes behind, in pixels of its length and cards. */
  behind(x1: number, y1: number, x2: number, y2: number): Behind {
    const left = Math.min(x1, x2),
      right = Math.max(x1, x2),
      top = Math.min(y1, y2),
      bottom = Math.max(y1, y2)
    const isLevel = bottom - top < right - left
    const [dx, dy] = isLevel ? [0, NEAR] : [NEAR, 0]
    let length = 0,
      cards = 0
    for (const box of this.within(left - dx, top - dy, right + dx, bottom + dy)) {
      const along = isLevel
        ? Math.min(right, box.right) - Math.max(left, box.left)
        : Math.min(bottom, box.bottom) - Math.max(top, box.top)
      // Its own port stands on the edge of a card.
      if (along <= 1) continue
      cards += 1
      length += along
    }
    return { cards, length }
  }

  /** How far a level look to the right or left gets before a card is in the way, `most` at the most. */
  roomBeside(x: number, [top, bottom]: readonly [number, number], side: 1 | -1, most: number): number {
    const boxes = side > 0 ? this.within(x, top, x + most, bottom) : this.within(x - most, top, x, bottom)
    return boxes.reduce((room, box) => {
      const edge = side > 0 ? box.left - x : x - box.right
      return edge >= -1 ? Math.min(room, edge) : room
    }, most)
  }

  /** Levels just over and under the cards of an area, at which a line from left to right meets none: `most`, from the middle. */
  levels(
    left: number,
    right: number,
    [top, bottom]: readonly [number, number],
    beside: number,
    most: number,
  ): number[] {
    const middle = (top + bottom) / 2,
      levels = new Set<number>()
    for (const box of this.within(left, top, right, bottom)) {
      levels.add(box.top - beside)
      levels.add(box.bottom + beside)
    }
    const found: number[] = []
    for (const y of [...levels].sort((a, b) => Math.abs(a - middle) - Math.abs(b - middle))) {
      if (this.isClear(left, right, y)) found.push(y)
      if (found.length >= most) break
    }
    return found
  }
  /** Levels over and under all cards between two places. */
  outer(left: number, right: number, beside: number): number[] {
    let top = Infinity,
      bottom = -Infinity
    for (let at = Math.floor(left / COLUMN); at <= Math.floor(right / COLUMN); at += 1)
      for (const box of this.columns.get(at) ?? []) {
        if (box.left >= right || box.right <= left) continue
        top = Math.min(top, box.top)
        bottom = Math.max(bottom, box.bottom)
      }
    return bottom < top ? [] : [top - beside, bottom + beside]
  }
  /** Does a level line meet no card? */
  isClear(left: number, right: number, y: number): boolean {
    for (let at = Math.floor(left / COLUMN); at <= Math.floor(right / COLUMN); at += 1)
      for (const box of this.columns.get(at) ?? [])
        if (box.left < right && box.right > left && box.top < y + NEAR && box.bottom > y - NEAR) return false
    return true
  }
}
