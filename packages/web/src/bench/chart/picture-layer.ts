/** Live pictures on one canvas over the cards: each drawn anew in its own rectangle, in turn. */
import type { Ink } from '../frames.ts'
import type { Pixels } from './pixels.ts'
import type { Frame } from './profile.ts'
import type { Box } from './routing.ts'
import { Surface, type TextContext } from './surface.ts'
import { touches, type Viewport } from './viewport.ts'

/** What draws one picture, for as long as it is seen. */
export interface Painter {
  /** Draws it in its frame, which is empty; false when nothing has changed since, and what stands there may stay. */
  draw(pixels: Pixels, frame: Frame, ink: Ink, isFresh: boolean): boolean
  /** Text over it, in pixels of the screen. */
  write?(context: TextContext, left: number, top: number, ink: Ink): void
}

export interface PictureItem {
  readonly key: string
  /** Where it stands on the chart. */
  readonly box: Box
  readonly painter: Painter
}

/** Every picture is drawn so many times a second, in turns: the canvas is handed on once a turn. */
const RATE_HZ = 20
/** Pictures drawn in one frame at most: more of them are drawn more seldom. */
const MOST_A_FRAME = 60

export class PictureLayer {
  private readonly surface: Surface
  private items: readonly PictureItem[] = []
  private next = 0
  private drawnAt = 0
  private isOld = true

  constructor(
    holder: HTMLElement,
    private readonly view: Viewport,
    private readonly ink: Ink,
    margin?: number,
  ) {
    this.surface = new Surface(holder, margin)
  }

  /** Draws these from now on, all at once for a beginning. */
  set(items: readonly PictureItem[]): void {
    const area = this.view.area(),
      before = this.items
    this.items = items.filter(({ box }) => touches(box, area))
    if (this.surface.isFor(this.view) && !this.isOld) this.change(before)
    else {
      this.isOld = false
      this.surface.begin(this.view)
      for (const { box, painter } of this.items)
        painter.draw(this.surface.pixels, this.frameOf(box), this.ink, true)
      this.surface.show()
      for (const item of this.items) this.write(item)
    }
    if (this.next >= this.items.length) this.next = 0
  }

  /** The view is the same: only what is others' by now is drawn. */
  private change(before: readonly PictureItem[]): void {
    const old = new Map(before.map((item) => [item.key, item])),
      stays = new Set<string>()
    for (const { key, box, painter } of this.items) {
      const was = old.get(key)
      if (was?.painter === painter && isSameBox(was.box, box)) stays.add(key)
    }
    for (const item of before)
      if (!stays.has(item.key)) {
        const frame = this.frameOf(item.box)
        clearFrame(this.surface.pixels, frame)
        this.surface.show(dirtyOf(frame))
      }
    for (const item of this.items) if (!stays.has(item.key)) this.draw(item, true)
  }

  /** All of it is drawn anew with the next items. */
  forget(): void {
    this.isOld = true
  }

  end(): void {
    this.surface.end()
  }

  follow(): void {
    this.surface.follow(this.view)
  }

  /** Once a frame: draws when a turn is due. */
  step(now: number, rateHz = RATE_HZ): void {
    const { length } = this.items
    if (this.view.isMoving || length === 0 || now - this.drawnAt < 1000 / rateHz - 4) return
    this.drawnAt = now
    for (let n = 0; n < Math.min(length, MOST_A_FRAME); n += 1) {
      this.draw(this.items[this.next]!)
      this.next = (this.next + 1) % length
    }
  }

  /** What stands over a box of the chart by now, to be carried along with what is held. */
  copy(box: Box): HTMLCanvasElement {
    const { left, top, width, height } = this.frameOf(box)
    const copy = document.createElement('canvas')
    copy.width = Math.max(1, Math.round(width))
    copy.height = Math.max(1, Math.round(height))
    copy.getContext('2d')!.drawImage(this.surface.canvas, -Math.round(left), -Math.round(top))
    return copy
  }

  private frameOf({ left, top, right, bottom }: Box): Frame {
    const { surface } = this,
      { zoom } = surface.drawn,
      { ratio } = surface
    return {
      left: surface.x(left),
      top: surface.y(top),
      width: (right - left) * zoom * ratio,
      height: (bottom - top) * zoom * ratio,
      ratio,
    }
  }

  private draw(item: PictureItem, isFresh = false): void {
    const { surface } = this,
      { pixels } = surface,
      frame = this.frameOf(item.box)
    if (!item.painter.draw(pixels, frame, this.ink, isFresh)) return
    surface.show(dirtyOf(frame))
    this.write(item)
  }

  private write({ box, painter }: PictureItem): void {
    if (!painter.write) return
    const { drawn } = this.surface
    painter.write(
      this.surface.onFrame(),
      box.left * drawn.zoom + drawn.x,
      box.top * drawn.zoom + drawn.y,
      this.ink,
    )
  }
}

const isSameBox = (a: Box, b: Box): boolean =>
  a.left === b.left && a.top === b.top && a.right === b.right && a.bottom === b.bottom

/** A frame in whole pixels, with the little that lines and dots reach beyond it. */
const dirtyOf = ({ left, top, width, height }: Frame): Box => ({
  left: Math.floor(left) - 2,
  top: Math.floor(top) - 2,
  right: Math.ceil(left + width) + 2,
  bottom: Math.ceil(top + height) + 2,
})

/** Empties a picture's frame. */
export const clearFrame = (pixels: Pixels, frame: Frame): void => {
  const { left, top, right, bottom } = dirtyOf(frame)
  pixels.clear(left, top, right - left, bottom - top)
}
