/** Cables as chart lines on one canvas: they brighten with their signal, in a few steps, and dim at rest. */
import type { SignalKind } from '@ypsilon/core'
import type { Ink } from '../frames.ts'
import type { PlacedCable, PlacedCard } from './places.ts'
import type { Route } from './routing.ts'
import { markPath, markSize } from './port-marks.ts'
import { Surface } from './surface.ts'
import type { Viewport } from './viewport.ts'

export interface DrawnCable extends PlacedCable {
  readonly route: Route
}

/** Widths of lines at 100 %. */
export const LINE_WIDTH: Readonly<Record<SignalKind, number>> = {
  audio: 3,
  control: 1.75,
  pitch: 4.5,
  gate: 2,
}
/** Smaller than this share lines do not become. */
export const LEAST_WIDTH = 0.6
export const FADED = 0.18
const STEPS = 8,
  DIMMEST = 0.55
/** Repeated at most so often, however fast signals change. */
const LEAST_MS = 100

/** How bright a line is for a signal of a size, in steps. */
export const brightness = (size: number): number => {
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

export class CableLayer {
  private readonly surface: Surface
  private readonly paths = new WeakMap<Route, Path2D>()
  private drawn: Drawn | undefined
  private levels = new Map<string, number>()
  private drawnAt = 0

  constructor(
    canvas: HTMLCanvasElement,
    private readonly view: Viewport,
    private readonly ink: Ink,
  ) {
    this.surface = new Surface(canvas)
  }

  set(drawn: Drawn): void {
    this.drawn = drawn
    this.draw()
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

  private pathOf(route: Route): Path2D {
    let path = this.paths.get(route)
    if (!path) {
      path = new Path2D(route.path)
      this.paths.set(route, path)
    }
    return path
  }

  draw(now = performance.now()): void {
    const { drawn, surface, view } = this
    if (!drawn) return
    this.drawnAt = now
    surface.begin(view)
    surface.onChart()
    const { context } = surface
    context.lineJoin = 'round'
    for (const cable of drawn.cables)
      if (!drawn.lifted.has(cable.id)) this.line(context, cable, drawn.isLit(cable))
    this.dots(context, drawn)
    this.marks(context, drawn)
    this.counts(context, drawn)
    context.globalAlpha = 1
  }

  /** Kind shows in the line first: solid and broad, solid and thin, two parallel lines, dashes. */
  private line(context: CanvasRenderingContext2D, cable: DrawnCable, isLit: boolean): void {
    const { kind, route, source } = cable,
      { ink, view } = this
    const path = this.pathOf(route),
      thin = Math.max(LEAST_WIDTH, Math.min(1, view.zoom)) / Math.min(1, view.zoom)
    context.globalAlpha = isLit ? (this.levels.get(source) ?? 1) : FADED
    context.strokeStyle = cable.cable.color ?? ink.colour(kind)
    context.lineWidth = LINE_WIDTH[kind] * thin
    if (kind === 'gate') context.setLineDash([5 * thin, 3 * thin])
    context.stroke(path)
    if (kind === 'gate') context.setLineDash([])
    if (kind !== 'pitch') return
    context.globalAlpha = 1
    context.strokeStyle = ink.colour('page')
    context.lineWidth = 2.1 * thin
    context.stroke(path)
  }

  /** Where cables of one output part. */
  private dots(context: CanvasRenderingContext2D, { cables, isLit }: Drawn): void {
    const radius = Math.max(3, 2.4 / this.view.zoom),
      done = new Set<string>()
    for (const cable of cables) {
      const { branch } = cable.route
      if (!branch || done.has(cable.source)) continue
      done.add(cable.source)
      context.globalAlpha = isLit(cable) ? 1 : FADED
      context.fillStyle = this.ink.colour(cable.kind)
      context.beginPath()
      context.arc(branch.x, branch.y, radius, 0, 2 * Math.PI)
      context.fill()
    }
  }

  /** Ports of soundings, by kind so that each is one stroke. */
  private marks(context: CanvasRenderingContext2D, { cards, hasAllPorts }: Drawn): void {
    const size = markSize(this.view.zoom)
    const paths = new Map<string, Path2D>()
    for (const { x, y, layout, used } of cards)
      for (const port of layout.ports.values()) {
        const isUsed = used.has(port.name)
        if (!isUsed && (port.isParam || !hasAllPorts)) continue
        const key = `${port.kind}${isUsed ? ' used' : ''}`
        let path = paths.get(key)
        if (!path) {
          path = new Path2D()
          paths.set(key, path)
        }
        markPath(path, port.kind, x + port.x, y + port.y, size)
      }
    context.globalAlpha = 1
    context.lineWidth = 1.5 / this.view.zoom
    for (const [key, path] of paths) {
      const [kind = 'control', used] = key.split(' ')
      context.strokeStyle = this.ink.colour(kind)
      context.fillStyle = this.ink.colour(used ? kind : 'page')
      context.fill(path)
      context.stroke(path)
    }
  }

  private counts(context: CanvasRenderingContext2D, { cables, counts }: Drawn): void {
    if (counts.size === 0) return
    context.globalAlpha = 1
    context.fillStyle = this.ink.colour('ink2')
    const size = Math.max(11, 10.5 / this.view.zoom)
    context.font = `${size}px "Atkinson Hyperlegible Mono Variable", monospace`
    const done = new Set<string>()
    for (const { source, from } of cables) {
      const text = done.has(source) ? undefined : counts.get(source)
      done.add(source)
      if (text !== undefined) context.fillText(text, from.x + 9, from.y - 6)
    }
  }
}
