/**
 * A drawing the size of the view: made at rest, and moved as it is while the chart moves. It stands on one of two canvases;
 * for another view it is made on the one that is hidden, and shown when that has been handed on. They are drawn apart from
 * the page's own canvases, which would be copied whole in every frame in which anything of the page moves.
 */
import { Pixels } from './pixels.ts'
import type { Box } from './routing.ts'
import type { Size, View, Viewport } from './viewport.ts'

/** Pixels beyond each edge, for the first moments of a pan. */
const MARGIN = 64
/** Frames until what was drawn on a hidden canvas has been handed on for sure. */
const HANDED_ON = 2

export type TextContext = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

class Sheet {
  readonly element = document.createElement('canvas')
  readonly canvas: HTMLCanvasElement | OffscreenCanvas
  readonly context: TextContext
  /** The view it was drawn for. */
  drawn: View = { x: 0, y: 0, zoom: 1 }

  /** `isPages`: a canvas of the page's own. */
  constructor(holder: HTMLElement, margin: number, isPages: boolean) {
    Object.assign(this.element.style, {
      position: 'absolute',
      left: `${-margin}px`,
      top: `${-margin}px`,
      willChange: 'transform',
      transformOrigin: `${margin}px ${margin}px`,
      visibility: 'hidden',
    })
    holder.append(this.element)
    this.canvas = isPages ? this.element : this.element.transferControlToOffscreen()
    this.context = this.canvas.getContext('2d')!
  }

  size(width: number, height: number, ratio: number): void {
    if (this.canvas.width === width && this.canvas.height === height) return
    this.canvas.width = width
    this.canvas.height = height
    this.element.style.width = `${width / ratio}px`
    this.element.style.height = `${height / ratio}px`
  }

  /** Moves with the view what was drawn before. */
  follow({ x, y, zoom }: View): void {
    const scale = zoom / this.drawn.zoom
    const isThere = scale === 1 && x === this.drawn.x && y === this.drawn.y
    this.element.style.transform = isThere
      ? ''
      : `translate(${x - this.drawn.x * scale}px, ${y - this.drawn.y * scale}px) scale(${scale})`
  }
}

export class Surface {
  /** Device pixels of a pixel. */
  ratio = 1
  pixels = new Pixels(1, 1)
  private image: ImageData | undefined
  private size: Size = { width: 0, height: 0 }
  private readonly sheets: readonly Sheet[]
  /** What is drawn on, and what is seen: the same but for the moment until another view is handed on. */
  private sheet: Sheet
  private seen: Sheet
  private waiting = 0

  /**
   * `holder`: an element of its own, which stands where the view does. `isFleeting`: drawn anew in every frame in which it
   * is seen, and hidden else: it stands on one canvas of the page's own, and moves with what else the page moves.
   */
  constructor(
    private readonly holder: HTMLElement,
    private readonly margin = MARGIN,
    isFleeting = false,
  ) {
    Object.assign(holder.style, { position: 'absolute', inset: '0', pointerEvents: 'none' })
    this.sheets = isFleeting
      ? [new Sheet(holder, margin, true)]
      : [new Sheet(holder, margin, false), new Sheet(holder, margin, false)]
    this.sheet = this.sheets[0]!
    this.seen = this.sheet
    this.seen.element.style.visibility = 'visible'
  }

  /** Takes its canvases off the page. */
  end(): void {
    cancelAnimationFrame(this.waiting)
    this.holder.replaceChildren()
  }

  /** The view it was drawn for. */
  get drawn(): View {
    return this.sheet.drawn
  }

  /** Empties it for the present view: `old` where something stands on it, in device pixels; everything where that is not known. */
  begin(view: Viewport, old?: Box): Pixels {
    const { margin } = this
    this.ratio = Math.min(2, window.devicePixelRatio || 1)
    const width = Math.max(1, Math.round((view.width + 2 * margin) * this.ratio)),
      height = Math.max(1, Math.round((view.height + 2 * margin) * this.ratio))
    if (this.pixels.width !== width || this.pixels.height !== height || !this.image) {
      this.pixels = new Pixels(width, height)
      this.image = new ImageData(this.pixels.bytes, width, height)
    } else if (old) {
      if (old.left < old.right)
        this.pixels.clear(old.left, old.top, old.right - old.left, old.bottom - old.top)
    } else this.pixels.clear()
    if (!this.isFor(view)) this.sheet = this.sheets.find((sheet) => sheet !== this.seen) ?? this.seen
    const { x, y, zoom } = view
    this.sheet.drawn = { x, y, zoom }
    this.sheet.size(width, height, this.ratio)
    this.sheet.follow(view)
    this.size = { width: view.width, height: view.height }
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
    const { context } = this.sheet
    if (box) {
      if (box.left >= box.right || box.top >= box.bottom) return
      const left = Math.floor(box.left),
        top = Math.floor(box.top)
      const width = Math.ceil(box.right) - left,
        height = Math.ceil(box.bottom) - top
      context.putImageData(this.image, 0, 0, left, top, width, height)
      return
    }
    context.putImageData(this.image, 0, 0)
    if (this.sheet !== this.seen) this.turnTo(this.sheet)
  }

  /** Another canvas is seen from now on, once what is on it has been handed on. */
  private turnTo(sheet: Sheet): void {
    let left = HANDED_ON
    const wait = (): void => {
      left -= 1
      if (left >= 0) {
        this.waiting = requestAnimationFrame(wait)
        return
      }
      for (const { element } of this.sheets)
        element.style.visibility = element === sheet.element ? 'visible' : 'hidden'
      this.seen = sheet
    }
    cancelAnimationFrame(this.waiting)
    wait()
  }

  /** For text over what is shown: pixels of the frame. */
  onFrame(): TextContext {
    const { ratio, margin } = this,
      { context } = this.sheet
    context.setTransform(ratio, 0, 0, ratio, margin * ratio, margin * ratio)
    return context
  }

  set isHidden(isHidden: boolean) {
    this.holder.style.display = isHidden ? 'none' : ''
  }

  /** What is shown, to take pictures from. */
  get canvas(): HTMLCanvasElement | OffscreenCanvas {
    return this.sheet.canvas
  }

  /** A place of the chart in device pixels. */
  x(at: number): number {
    return (at * this.drawn.zoom + this.drawn.x + this.margin) * this.ratio
  }
  y(at: number): number {
    return (at * this.drawn.zoom + this.drawn.y + this.margin) * this.ratio
  }

  /** Moves with the view what was drawn before. */
  follow(view: View): void {
    for (const sheet of this.sheets) sheet.follow(view)
  }
}
