/** Cables as chart lines on one canvas: they brighten with their signal, in a few steps, and dim at rest. */
import type { SignalKind } from '@ypsilon/core'
import type { Ink } from '../frames.ts'
import type { DrawnCable, PlacedCard } from './places.ts'
import { countPlaces } from './count-places.ts'
import { type Box, cornersOf, type Point, type Route } from './routing.ts'
import { mixed, type Pixels, type Rgb, rgbOf } from './pixels.ts'
import { markPixels, markWidth } from './port-marks.ts'
import { Surface } from './surface.ts'
import type { Viewport } from './viewport.ts'

/** Widths of lines at 100 %. */
export const LINE_WIDTH: Readonly<Record<SignalKind, number>> = {
  audio: 3,
  control: 1.75,
  pitch: 4.5,
  gate: 2,
}
/** Smaller than this share lines do not become. */
export const LEAST_WIDTH = 0.6
const FADED = 0.18
const STEPS = 8,
  DIMMEST = 0.55
/** Repeated at most so often, however fast signals change. */
const LEAST_MS = 100

/** How bright a line is for a signal of a size, in steps. */
const brightness = (size: number): number => {
  const step = Math.round(Math.min(1, size * 3) * (STEPS - 1))
  return DIMMEST + ((1 - DIMMEST) * step) / (STEPS - 1)
}

/** What of the chart is to be drawn. */
export interface Drawn {
  readonly cables: readonly DrawnCable[]
  /** Cards whose port marks are drawn here: those that have no rows. */
  readonly cards: readonly PlacedCard[]
  /** Are all port marks drawn, or those in use? */
  readonly hasAllPorts: boolean
  /** Voices and sides at the start of an output's cables; empty where they are not shown. */
  readonly counts: ReadonlyMap<string, string>
  readonly isLit: (cable: DrawnCable) => boolean
  /** Drawn elsewhere, over the others. */
  readonly lifted: ReadonlySet<string>
}

/** Holds nothing: any box and this are that box. */
const NOWHERE: Box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity }
const around = (a: Box, b: Box): Box => ({
  left: Math.min(a.left, b.left),
  top: Math.min(a.top, b.top),
  right: Math.max(a.right, b.right),
  bottom: Math.max(a.bottom, b.bottom),
})

export class CableLayer {
  private readonly surface: Surface
  private readonly ways = new WeakMap<Route, Float64Array>()
  private drawn: Drawn | undefined
  private countPlaces: ReadonlyMap<string, Point> = new Map()
  private levels = new Map<string, number>()
  private drawnAt = 0
  /** Where something stands by now, in device pixels. */
  private box: Box = NOWHERE

  /** `isFleeting`: few cables, drawn anew in every frame in which they are seen. */
  constructor(
    holder: HTMLElement,
    private readonly view: Viewport,
    private readonly ink: Ink,
    private readonly isFleeting = false,
  ) {
    this.surface = new Surface(holder, undefined, isFleeting)
    this.surface.isHidden = isFleeting
  }

  hide(): void {
    this.surface.isHidden = true
  }

  set(drawn: Drawn, now: number): void {
    if (drawn.cables !== this.drawn?.cables || drawn.counts !== this.drawn.counts)
      this.countPlaces = countPlaces(drawn.cables, drawn.counts, (route) => this.wayOf(route))
    this.drawn = drawn
    if (this.isFleeting) this.surface.isHidden = false
    this.draw(now)
  }

  end(): void {
    this.surface.end()
  }

  follow(): void {
    this.surface.follow(this.view)
  }

  /** Once a frame: drawn anew when a signal has become brighter or dimmer by a step. */
  step(now: number, isSounding: boolean): void {
    if (!this.drawn || this.view.isMoving || now - this.drawnAt < LEAST_MS) return
    let isChanged = false
    for (const { source } of this.drawn.cables) {
      const picture = isSounding ? this.ink.picture(source) : undefined
      const level = isSounding
        ? brightness(picture ? Math.max(Math.abs(picture.min), Math.abs(picture.max)) : 0)
        : 1
      if (this.levels.get(source) === level) continue
      this.levels.set(source, level)
      isChanged = true
    }
    if (isChanged) this.draw(now)
  }

  private wayOf(route: Route): Float64Array {
    let way = this.ways.get(route)
    if (!way) {
      way = cornersOf(route)
      this.ways.set(route, way)
    }
    return way
  }

  private draw(now: number): void {
    const { drawn, surface } = this
    if (!drawn) return
    this.drawnAt = now
    const old = this.isFleeting ? this.box : undefined
    const pixels = surface.begin(this.view, old)
    for (const cable of drawn.cables)
      if (!drawn.lifted.has(cable.id)) this.line(pixels, cable, drawn.isLit(cable))
    this.dots(pixels, drawn)
    this.marks(pixels, drawn)
    if (this.isFleeting) this.box = this.boxOf(drawn)
    surface.show(old && around(old, this.box))
    this.counts(drawn)
  }

  /** What is drawn stands in it, lines and marks in their whole width. */
  private boxOf({ cables, cards }: Drawn): Box {
    const { surface } = this
    const beyond = (LINE_WIDTH.pitch + markWidth(1)) * Math.max(1, this.view.zoom) * surface.ratio
    const boxes = [...cables.map(({ route }) => route.box), ...cards.map(({ box }) => box)]
    const box = boxes.reduce(around, NOWHERE)
    return {
      left: Math.max(0, Math.floor(surface.x(box.left) - beyond)),
      top: Math.max(0, Math.floor(surface.y(box.top) - beyond)),
      right: Math.min(surface.pixels.width, Math.ceil(surface.x(box.right) + beyond)),
      bottom: Math.min(surface.pixels.height, Math.ceil(surface.y(box.bottom) + beyond)),
    }
  }

  /** Kind shows in the line first: solid and broad, solid and thin, two parallel lines, dashes. */
  private line(pixels: Pixels, { kind, route, source, cable }: DrawnCable, isLit: boolean): void {
    const { ink, view, surface } = this
    const size = Math.max(LEAST_WIDTH, view.zoom) * surface.ratio,
      way = this.wayOf(route),
      opacity = isLit ? (this.levels.get(source) ?? 1) : FADED
    const page = rgbOf(ink.colour('page'))
    // Dim lines are mixed with the page, so that whole pixels are written.
    const rgb = mixed(page, rgbOf(cable.color ?? ink.colour(kind)), opacity)
    this.stretches(pixels, way, LINE_WIDTH[kind] * size, rgb, kind === 'gate' ? size : 0)
    if (kind === 'pitch') this.stretches(pixels, way, 2.1 * size, page, 0)
  }

  /** Level and upright stretches as rectangles, the slanted ones as short lines; `dash` > 0 breaks them up. */
  private stretches(pixels: Pixels, way: Float64Array, thick: number, rgb: Rgb, dash: number): void {
    const { surface } = this,
      half = thick / 2
    for (let i = 2; i < way.length; i += 2) {
      const ax = surface.x(way[i - 2]!),
        ay = surface.y(way[i - 1]!),
        bx = surface.x(way[i]!),
        by = surface.y(way[i + 1]!)
      const left = Math.min(ax, bx),
        right = Math.max(ax, bx),
        top = Math.min(ay, by),
        bottom = Math.max(ay, by)
      if (right < -half || bottom < -half || left > pixels.width + half || top > pixels.height + half)
        continue
      if (bottom - top < 0.01 && dash === 0) pixels.rect(left, top - half, right, top + half, rgb)
      else if (right - left < 0.01 && dash === 0) pixels.rect(left - half, top, left + half, bottom, rgb)
      else if (bottom - top < 0.01)
        for (let x = left; x < right; x += 8 * dash)
          pixels.rect(x, top - half, Math.min(right, x + 5 * dash), top + half, rgb)
      else if (right - left < 0.01)
        for (let y = top; y < bottom; y += 8 * dash)
          pixels.rect(left - half, y, left + half, Math.min(bottom, y + 5 * dash), rgb)
      else pixels.line(ax, ay, bx, by, thick, rgb)
    }
  }

  /** Where cables of one output part. */
  private dots(pixels: Pixels, { cables, lifted, isLit }: Drawn): void {
    const { surface } = this
    const r = Math.max(3 * this.view.zoom, 2.4) * surface.ratio
    for (const cable of cables) {
      const { branch } = cable.route
      if (!branch || lifted.has(cable.id)) continue
      const x = surface.x(branch.x),
        y = surface.y(branch.y)
      pixels.line(x, y, x, y, 2 * r, rgbOf(this.ink.colour(cable.kind)), isLit(cable) ? 1 : FADED)
    }
  }

  /** Ports of soundings: each mark is drawn once and stamped where it stands. */
  private marks(pixels: Pixels, { cards, hasAllPorts }: Drawn): void {
    const { surface } = this
    const width = markWidth(this.view.zoom) * surface.ratio,
      stamps = new Map<string, Pixels>()
    const page = rgbOf(this.ink.colour('page'))
    for (const { x, y, layout, used } of cards)
      for (const port of layout.ports.values()) {
        const isUsed = used.has(port.name)
        if (!isUsed && (port.isParam || !hasAllPorts)) continue
        const key = `${port.kind}${isUsed ? ' used' : ''}`
        let stamp = stamps.get(key)
        if (!stamp) {
          const rgb = rgbOf(this.ink.colour(port.kind))
          stamp = markPixels(port.kind, width, isUsed ? rgb : page, rgb)
          stamps.set(key, stamp)
        }
        pixels.stamp(stamp, surface.x(x + port.x) - stamp.width / 2, surface.y(y + port.y) - stamp.height / 2)
      }
  }

  private counts({ counts }: Drawn): void {
    if (counts.size === 0) return
    const context = this.surface.onFrame(),
      { zoom, x, y } = this.surface.drawn
    context.fillStyle = this.ink.colour('ink2')
    context.font = `${Math.max(10.5, 11 * zoom)}px "Atkinson Hyperlegible Mono Variable", monospace`
    for (const [source, at] of this.countPlaces)
      context.fillText(counts.get(source)!, at.x * zoom + x, at.y * zoom + y)
  }
}
