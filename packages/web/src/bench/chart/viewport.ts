/** Where the chart is looked at, followed outside React: told while it moves, and when it has come to rest. */
import type { Box, Point } from './routing.ts'

export interface View {
  readonly x: number
  readonly y: number
  readonly zoom: number
}
export interface Size {
  readonly width: number
  readonly height: number
}

/** A gesture has ended when nothing has moved for so long. */
const REST_MS = 110

/** What the canvas library tells of itself. */
export interface ViewSource {
  getState(): {
    readonly transform: readonly [number, number, number]
    readonly width: number
    readonly height: number
  }
  subscribe(listener: () => void): () => void
}

type Listener = () => void

export class Viewport implements View, Size {
  x = 0
  y = 0
  zoom = 1
  width = 0
  height = 0
  isMoving = false
  private movedAt = 0
  private timer: ReturnType<typeof setTimeout> | undefined
  private readonly moving = new Set<Listener>()
  private readonly resting = new Set<Listener>()

  /** Follows a source until it is told to stop. */
  follow(source: ViewSource): () => void {
    const take = (): void => {
      const { transform, width, height } = source.getState()
      const [x, y, zoom] = transform
      const isSame = x === this.x && y === this.y && zoom === this.zoom
      if (isSame && width === this.width && height === this.height) return
      Object.assign(this, { x, y, zoom, width, height })
      this.moved()
    }
    take()
    const stop = source.subscribe(take)
    return () => {
      stop()
      clearTimeout(this.timer)
      this.timer = undefined
    }
  }

  private moved(): void {
    this.isMoving = true
    this.movedAt = performance.now()
    for (const listener of this.moving) listener()
    this.timer ??= setTimeout(this.look, REST_MS)
  }

  private readonly look = (): void => {
    const left = this.movedAt + REST_MS - performance.now()
    this.timer = left > 1 ? setTimeout(this.look, left) : undefined
    if (this.timer) return
    this.isMoving = false
    for (const listener of this.resting) listener()
  }

  /** Told at every move. */
  onMove(listener: Listener): () => void {
    this.moving.add(listener)
    return () => this.moving.delete(listener)
  }
  /** Told when it has come to rest. */
  onRest(listener: Listener): () => void {
    this.resting.add(listener)
    return () => this.resting.delete(listener)
  }

  /** A place of the frame on the chart. */
  toChart({ x, y }: Point): Point {
    return { x: (x - this.x) / this.zoom, y: (y - this.y) / this.zoom }
  }
  /** A place of the chart in the frame. */
  toFrame({ x, y }: Point): Point {
    return { x: x * this.zoom + this.x, y: y * this.zoom + this.y }
  }

  /** What is seen of the chart, and so many widths and heights around it. */
  area(around = 0): Box {
    const { x, y, zoom, width, height } = this
    return {
      left: (-x - around * width) / zoom,
      top: (-y - around * height) / zoom,
      right: (-x + (1 + around) * width) / zoom,
      bottom: (-y + (1 + around) * height) / zoom,
    }
  }
}

export const touches = (a: Box, b: Box): boolean =>
  a.left < b.right && a.right > b.left && a.top < b.bottom && a.bottom > b.top
