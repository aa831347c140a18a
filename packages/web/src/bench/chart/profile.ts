/** Pictures as depth profiles: a line over a datum with the chart's scale, filled down to it. */
import type { Picture, SignalKind } from '@ypsilon/core'
import type { Ink } from '../frames.ts'

/** Where a picture stands, in pixels. */
export interface Frame {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

type Context = CanvasRenderingContext2D

const FILL = 0.16
/** Marks along a datum: every so many pixels, every fifth taller. */
const DIVISION = 8,
  TALL_EVERY = 5

/** The line a picture stands on. */
export const drawDatum = (context: Context, { left, top, width, height }: Frame, ink: Ink): void => {
  const bottom = Math.round(top + height) - 0.5
  context.beginPath()
  context.moveTo(left, bottom)
  context.lineTo(left + width, bottom)
  for (let n = 0; n * DIVISION <= width; n += 1) {
    const x = Math.round(left + n * DIVISION) + 0.5
    context.moveTo(x, bottom)
    context.lineTo(x, bottom - (n % TALL_EVERY === 0 ? 4 : 2))
  }
  context.strokeStyle = ink.colour('ink2')
  context.lineWidth = 1
  context.stroke()
}

type Points = readonly (readonly [x: number, y: number])[]

const clamped = (value: number): number => Math.min(1, Math.max(0, value))

/** A line through points within 0…1, and what is under it. */
export const drawLine = (
  context: Context,
  points: Points,
  { left, top, width, height }: Frame,
  colour: string,
  isFilled: boolean,
): void => {
  if (points.length === 0) return
  const x = (at: number): number => left + at * width,
    y = (at: number): number => top + (1 - clamped(at)) * (height - 2) + 1
  context.beginPath()
  points.forEach(([a, b], index) => {
    if (index === 0) context.moveTo(x(a), y(b))
    else context.lineTo(x(a), y(b))
  })
  context.strokeStyle = colour
  context.lineWidth = 1.5
  context.stroke()
  if (!isFilled) return
  context.lineTo(x(points.at(-1)![0]), top + height)
  context.lineTo(x(points[0]![0]), top + height)
  context.globalAlpha = FILL
  context.fillStyle = colour
  context.fill()
  context.globalAlpha = 1
}

const drawBars = (context: Context, points: Points, frame: Frame, colour: string, isSteps: boolean): void => {
  const { left, top, width, height } = frame
  const across = Math.max(1.5, width / points.length - 2)
  context.fillStyle = colour
  for (const [a, b] of points) {
    const high = Math.max(1, clamped(b) * height)
    context.globalAlpha = isSteps && b === 0 ? 0.2 : 0.55
    context.fillRect(left + a * width - across / 2, top + height - high, across, high)
  }
  context.globalAlpha = 1
}

const DOT = 3
const MARK_FONT = '11px "Atkinson Hyperlegible Mono Variable", monospace'

/** Marks along x, for pictures that are large enough to be read from. */
export const drawMarks = (
  context: Context,
  { marks = [] }: Picture,
  { left, top, width, height }: Frame,
  ink: Ink,
): void => {
  context.strokeStyle = ink.colour('rule')
  context.fillStyle = ink.colour('ink2')
  context.lineWidth = 1
  context.font = MARK_FONT
  context.setLineDash([2, 3])
  context.beginPath()
  for (const [at, word] of marks) {
    const x = Math.round(left + at * width) + 0.5
    context.moveTo(x, top)
    context.lineTo(x, top + height)
    context.fillText(word, x + 3, top + 10)
  }
  context.stroke()
  context.setLineDash([])
}

/** A module's own picture. */
export const drawPicture = (
  context: Context,
  { kind, curves, dots = [] }: Picture,
  frame: Frame,
  hue: SignalKind,
  ink: Ink,
): void => {
  const colour = ink.colour(hue)
  curves.forEach(({ points }, index) => {
    if (kind !== 'line')
      drawBars(context, points, frame, index === 0 ? colour : ink.colour('ink2'), kind === 'steps')
    else
      drawLine(
        context,
        points,
        frame,
        index === 1 && curves.length === 2 ? ink.colour('ink2') : colour,
        index === 0,
      )
  })
  context.fillStyle = ink.colour('ink')
  for (const [a, b] of dots) {
    context.beginPath()
    const x = frame.left + a * frame.width,
      y = frame.top + (1 - clamped(b)) * (frame.height - 2) + 1
    context.arc(x, y, DOT, 0, 2 * Math.PI)
    context.fill()
  }
}
