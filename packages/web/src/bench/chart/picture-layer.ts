/** Live pictures on one canvas over the cards: each drawn anew in its own rectangle, in turn. */
import type { Ink } from '../frames.ts'
import type { Frame } from './profile.ts'
import type { Box } from './routing.ts'
import { Surface } from './surface.ts'
import { touches, type Viewport } from './viewport.ts'

/** What draws one picture, for as long as it is seen. */
export interface Painter {
  draw(context: CanvasRenderingContext2D, frame: Frame, ink: Ink): void
}

export interface PictureItem {
  readonly key: string
  /** Where it stands on the chart. */
  readonly box: Box
  readonly painter: Painter
}

/** Every picture is drawn so many times a second. */
const RATE_HZ = 20

export class PictureLayer {
  private readonly surface: Surface
  private items: readonly PictureItem[] = []
  private next = 0
  private owed = 0
  private at = 0

  constructor(
    canvas: HTMLCanvasElement,
    private readonly view: Viewport,
    private readonly ink: Ink,
  ) {
    this.surface = new Surface(canvas)
  }

  /** Draws these from now on, all at once for a beginning. */
  set(items: readonly PictureItem[]): void {
    const area = this.view.area()
    this.items = items.filter(({ box }) => touches(box, area))
    this.surface.begin(this.view)
    for (const item of this.items) this.draw(item)
    this.next = 0
    this.owed = 0
  }

  follow(): void {
    this.surface.follow(this.view)
  }

  /** Once a frame: as many pictures as are due. */
  step(now: number): void {
    const passed = Math.min(100, now - this.at)
    this.at = now
    const { length } = this.items
    if (this.view.isMoving || length === 0) return
    this.owed = Math.min(length, this.owed + (length * passed * RATE_HZ) / 1000)
    for (; this.owed >= 1; this.owed -= 1) {
      this.draw(this.items[this.next]!)
      this.next = (this.next + 1) % length
    }
  }

  private draw({ box, painter }: PictureItem): void {
    const { x, y, zoom } = this.surface.drawn,
      { context } = this.surface
    const frame = {
      left: box.left * zoom + x,
      top: box.top * zoom + y,
      width: (box.right - box.left) * zoom,
      height: (box.bottom - box.top) * zoom,
    }
    // A line's width and a dot reach a little beyond.
    context.clearRect(frame.left - 2, frame.top - 2, frame.width + 4, frame.height + 4)
    painter.draw(context, frame, this.ink)
  }
}
