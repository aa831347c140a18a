/** Live pictures on one canvas over the cards: each drawn anew in its own rectangle, in turn. */
import type { Ink } from '../frames.ts'
import type { Pixels } from './pixels.ts'
import type { Frame } from './profile.ts'
import type { Box } from './routing.ts'
import { Surface } from './surface.ts'
import { touches, type Viewport } from './viewport.ts'

/** What draws one picture, for as long as it is seen. */
export interface Painter {
  /** Draws it in its frame, which is empty; false when nothing has changed since, and what stands there may stay. */
  draw(pixels: Pixels, frame: Frame, ink: Ink, isFresh: boolean): boolean
  /** Text over it, in pixels of the screen. */
  write?(context: CanvasRenderingContext2D, left: number, top: number, ink: Ink): void
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

  constructor(
    canvas: HTMLCanvasElement,
    private readonly view: Viewport,
    private readonly ink: Ink,
    margin?: number,
  ) {
    this.surface = new Surface(canvas, margin)
  }

  /** Draws these from now on, all at once for a beginning. */
  set(items: readonly PictureItem[]): void {
    const area = this.view.area()
    this.items = items.filter(({ box }) => touches(box, area))
    this.surface.begin(this.view)
    for (const { box, painter } of this.items)
      painter.draw(this.surface.pixels, this.frameOf(box), this.ink, true)
    this.surface.show()
    for (const item of this.items) this.write(item)
    this.next = 0
  }

  follow(): void {
    this.surface.follow(this.view)
  }

  /** Once a frame: draws when a turn is due. */
  step(now: number): void {
    const { length } = this.items
    if (this.view.isMoving || length === 0 || now - this.drawnAt < 1000 / RATE_HZ - 4) return
    this.drawnAt = now
    for (let n = 0; n < Math.min(length, MOST_A_FRAME); n += 1) {
      this.draw(this.items[this.next]!)
      this.next = (this.next + 1) % length
    }
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

  private draw(item: PictureItem): void {
    const { surface } = this,
      { pixels } = surface,
      frame = this.frameOf(item.box)
    // A line's width and a dot reach a little beyond.
    const dirty = {
      left: Math.floor(frame.left) - 2,
      top: Math.floor(frame.top) - 2,
      right: Math.ceil(frame.left + frame.width) + 2,
      bottom: Math.ceil(frame.top + frame.height) + 2,
    }
    if (!item.painter.draw(pixels, frame, this.ink, false)) return
    surface.show(dirty)
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

/** Empties a picture's frame, and the little that lines and dots reach beyond it. */
export const clearFrame = (pixels: Pixels, { left, top, width, height }: Frame): void => {
  const x = Math.floor(left) - 2,
    y = Math.floor(top) - 2
  pixels.clear(x, y, Math.ceil(left + width) + 2 - x, Math.ceil(top + height) + 2 - y)
}
