/** A canvas the size of the view: drawn at rest, and moved as it is while the chart moves. */
import type { View, Viewport } from './viewport.ts'

/** Pixels beyond each edge, for the first moments of a pan. */
const MARGIN = 96

export class Surface {
  readonly context: CanvasRenderingContext2D
  /** The view it was drawn for. */
  drawn: View = { x: 0, y: 0, zoom: 1 }
  private ratio = 1

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.context = canvas.getContext('2d')!
    Object.assign(canvas.style, {
      position: 'absolute',
      left: `${-MARGIN}px`,
      top: `${-MARGIN}px`,
      pointerEvents: 'none',
      transformOrigin: `${MARGIN}px ${MARGIN}px`,
    })
  }

  /** Empties it for the present view; from here on it is drawn in pixels of the frame. */
  begin(view: Viewport): CanvasRenderingContext2D {
    const { canvas, context } = this
    this.ratio = Math.min(2, window.devicePixelRatio || 1)
    const width = Math.round((view.width + 2 * MARGIN) * this.ratio),
      height = Math.round((view.height + 2 * MARGIN) * this.ratio)
    if (canvas.width !== width || canvas.height !== height) {
      canvas.width = width
      canvas.height = height
      canvas.style.width = `${width / this.ratio}px`
      canvas.style.height = `${height / this.ratio}px`
    }
    const { x, y, zoom } = view
    this.drawn = { x, y, zoom }
    canvas.style.transform = ''
    this.reset()
    context.clearRect(-MARGIN, -MARGIN, view.width + 2 * MARGIN, view.height + 2 * MARGIN)
    return context
  }

  /** Pixels of the frame. */
  reset(): void {
    const { ratio } = this
    this.context.setTransform(ratio, 0, 0, ratio, MARGIN * ratio, MARGIN * ratio)
  }

  /** Pixels of the chart, as it was when drawing began. */
  onChart(): void {
    const { ratio } = this,
      { x, y, zoom } = this.drawn
    this.context.setTransform(ratio * zoom, 0, 0, ratio * zoom, (MARGIN + x) * ratio, (MARGIN + y) * ratio)
  }

  /** Moves with the view what was drawn before. */
  follow({ x, y, zoom }: View): void {
    const scale = zoom / this.drawn.zoom
    this.canvas.style.transform = `translate(${x - this.drawn.x * scale}px, ${y - this.drawn.y * scale}px) scale(${scale})`
  }
}
