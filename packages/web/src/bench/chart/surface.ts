/** A canvas the size of the view: drawn at rest, and moved as it is while the chart moves. */
import { Pixels } from './pixels.ts'
import type { Box } from './routing.ts'
import type { Size, View, Viewport } from './viewport.ts'

/** Pixels beyond each edge, for the first moments of a pan. */
const MARGIN = 64

export class Surface {
  readonly context: CanvasRenderingContext2D
  /** The view it was drawn for. */
  drawn: View = { x: 0, y: 0, zoom: 1 }
  /** Device pixels of a pixel. */
  ratio = 1
  pixels = new Pixels(1, 1)
  private image: ImageData | undefined
  private size: Size = { width: 0, height: 0 }

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly margin = MARGIN,
  ) {
    this.context = canvas.getContext('2d')!
    Object.assign(canvas.style, {
      position: 'absolute',
      left: `${-margin}px`,
      top: `${-margin}px`,
      pointerEvents: 'none',
      willChange: 'transform',
      transformOrigin: `${margin}px ${margin}px`,
    })
  }

  /** Empties it for the present view. */
  begin(view: Viewport): Pixels {
    const { canvas, margin } = this
    this.ratio = Math.min(2, window.devicePixelRatio || 1)
    const width = Math.max(1, Math.round((view.width + 2 * margin) * this.ratio)),
      height = Math.max(1, Math.round((view.height + 2 * margin) * this.ratio))
    if (canvas.width !== width || canvas.height !== height || !this.image) {
      canvas.width = width
      canvas.height = height
      canvas.style.width = `${width / this.ratio}px`
      canvas.style.height = `${height / this.ratio}px`
      this.pixels = new Pixels(width, height)
      this.image = new ImageData(this.pixels.bytes, width, height)
    } else this.pixels.clear()
    const { x, y, zoom } = view
    this.drawn = { x, y, zoom }
    this.size = { width: view.width, height: view.height }
    canvas.style.transform = ''
    return this.pixels
  }

  /** Is it drawn for this view? */
  isFor({ x, y, zoom, width, height }: Viewport): boolean {
    const { drawn, size } = this
    return (
      x === drawn.x && y === drawn.y && zoom === drawn.zoom && width === size.width && height === size.height
    )
  }

  /** Shows what was drawn; of a box alone where one is given, in device pixels. */
  show(box?: Box): void {
    if (!this.image) return
    if (!box) this.context.putImageData(this.image, 0, 0)
    else {
      const left = Math.floor(box.left),
        top = Math.floor(box.top)
      this.context.putImageData(
        this.image,
        0,
        0,
        left,
        top,
        Math.ceil(box.right) - left,
        Math.ceil(box.bottom) - top,
      )
    }
  }

  /** For text over what is shown: pixels of the frame. */
  onFrame(): CanvasRenderingContext2D {
    const { ratio, margin } = this
    this.context.setTransform(ratio, 0, 0, ratio, margin * ratio, margin * ratio)
    return this.context
  }

  /** A place of the chart in device pixels. */
  x(at: number): number {
    return (at * this.drawn.zoom + this.drawn.x + this.margin) * this.ratio
  }
  y(at: number): number {
    return (at * this.drawn.zoom + this.drawn.y + this.margin) * this.ratio
  }

  /** Moves with the view what was drawn before. */
  follow({ x, y, zoom }: View): void {
    const scale = zoom / this.drawn.zoom
    this.canvas.style.transform = `translate(${x - this.drawn.x * scale}px, ${y - this.drawn.y * scale}px) scale(${scale})`
  }
}
