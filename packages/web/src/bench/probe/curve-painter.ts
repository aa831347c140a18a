/** Draws curves: lines, bars, dots. */
import type { Curve } from '@ypsilon/core/probe/plot.ts'
import { type Sheet, squareOf, xOf, yOf } from './sheet.ts'

export interface Line {
  readonly colour: string
  readonly width: number
  readonly dash: readonly number[]
}

/** The highest point of every pixel: what lies between two pixels is never lost. */
const drawLine = (sheet: Sheet, { x, y }: Curve, { colour, width, dash }: Line): void => {
  const { context, plot, area } = sheet
  context.strokeStyle = colour
  context.lineWidth = width
  context.setLineDash([...dash])
  context.beginPath()
  const right = area.left + area.width
  let column = -1,
    low = 0,
    high = 0,
    last = 0,
    isBegun = false
  const put = (at: number): void => {
    if (!isBegun) context.moveTo(at, high)
    context.lineTo(at, high)
    if (low > high + 0.5) context.lineTo(at, low)
    context.lineTo(at, last)
    isBegun = true
  }
  for (let n = 0; n < x.length; n += 1) {
    const at = xOf(plot.across, area, x[n]!)
    if (at < area.left - 1) continue
    if (at > right + 0.5) break
    const height = yOf(plot.up, area, y[n]!),
      pixel = Math.round(2 * at) / 2
    if (pixel !== column) {
      if (column >= 0) put(column)
      column = pixel
      low = high = height
    } else {
      high = Math.min(high, height)
      low = Math.max(low, height)
    }
    last = height
  }
  if (column >= 0) put(column)
  context.stroke()
  context.setLineDash([])
}

const drawBars = (sheet: Sheet, { x, y }: Curve, { colour }: Line, share = 0.6): void => {
  const { context, plot, area } = sheet
  const step = area.width / Math.max(1, plot.across.scale === 'log' ? 7 : x.length),
    size = Math.min(36, step * share)
  context.fillStyle = colour
  const zero = yOf(plot.up, area, Math.max(plot.up.from, Math.min(plot.up.to, plot.up.from)))
  for (let n = 0; n < x.length; n += 1) {
    const at = xOf(plot.across, area, x[n]!),
      top = yOf(plot.up, area, y[n]!)
    context.fillRect(Math.round(at - size / 2), top, Math.round(size), zero - top)
  }
}

const drawDots = (sheet: Sheet, { x, y }: Curve, colour: string): void => {
  const { context, plot, area } = sheet,
    square = squareOf(area)
  context.fillStyle = colour
  context.globalAlpha = 0.55
  for (let n = 0; n < x.length; n += 1)
    context.fillRect(xOf(plot.across, square, x[n]!) - 0.75, yOf(plot.up, square, y[n]!) - 0.75, 1.5, 1.5)
  context.globalAlpha = 1
}

export const drawCurve = (sheet: Sheet, curve: Curve, line: Line): void => {
  if (curve.style === 'bars') drawBars(sheet, curve, line)
  else if (curve.style === 'dots') drawDots(sheet, curve, line.colour)
  else drawLine(sheet, curve, line)
}
