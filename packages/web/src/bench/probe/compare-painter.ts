/** Draws two plots over each other, and below them how far the second lies above the first. */
import type { Difference } from '@ypsilon/core/probe/compare.ts'
import type { Curve, Plot } from '@ypsilon/core/probe/plot.ts'
import { roundAbove } from '@ypsilon/core/probe/scope.ts'
import type { Size } from '../fitted.ts'
import type { Ink } from '../frames.ts'
import type { Spot } from './canvas.ts'
import { drawPlot } from './painter.ts'

interface Pair {
  readonly a: Plot | undefined
  readonly b: Plot | undefined
  readonly difference: Difference | undefined
  readonly pointer: Spot | undefined
}

/** Share of the height both curves have. */
const UPPER = 0.62

/** The difference as a plot of its own, around 0. */
export const differencePlot = (of: Plot, curve: Curve): Plot => {
  const most = curve.y.reduce((high, y) => Math.max(high, Math.abs(y)), 0),
    top = roundAbove(Math.max(most, of.up.unit === 'dB' ? 3 : 1e-3))
  return {
    across: of.across,
    up: { unit: of.up.unit, scale: 'linear', from: -top, to: top },
    curves: [curve],
    marks: [],
    readings: [],
  }
}

/** Heights that hold both. */
const joined = (a: Plot, b: Plot): Plot => ({
  ...a,
  up: { ...a.up, from: Math.min(a.up.from, b.up.from), to: Math.max(a.up.to, b.up.to) },
  marks: a.marks.length > 0 ? a.marks : b.marks,
})

export const drawCompared = (
  context: CanvasRenderingContext2D,
  ink: Ink,
  { a, b, difference, pointer }: Pair,
  { width, height }: Size,
): void => {
  context.clearRect(0, 0, width, height)
  if (!a || !b) return
  const curve = difference?.curve,
    upper = curve ? Math.round(height * UPPER) : height
  drawPlot(
    context,
    ink,
    {
      plot: joined(a, b),
      isPair: true,
      overlays: [{ name: 'b', plot: b }],
      pointer: pointer && pointer.y < upper ? pointer : undefined,
    },
    { width, height: upper },
  )
  if (!curve) return
  context.save()
  context.translate(0, upper)
  drawPlot(
    context,
    ink,
    {
      plot: differencePlot(a, curve),
      overlays: [],
      colour: 'accent',
      pointer: pointer && pointer.y >= upper ? { x: pointer.x, y: pointer.y - upper } : undefined,
    },
    { width, height: height - upper },
  )
  context.restore()
}
