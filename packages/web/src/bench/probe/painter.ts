/** Draws a plot: axes in margins, marks' words in a band above, curves in between; nothing lies on a curve. */
import type { Plot } from '@ypsilon/core/probe/plot.ts'
import type { Ink } from '../frames.ts'
import { drawAxes, drawSides } from './axes-painter.ts'
import { drawCurve } from './curve-painter.ts'
import type { Laid } from './feed.ts'
import { drawMarks } from './mark-painter.ts'
import { readAt } from './pointer-reading.ts'
import { areaOf, MARGINS, type Sheet } from './sheet.ts'
import { drawPicture } from './spectrogram-painter.ts'

export interface Drawn {
  readonly plot: Plot
  readonly overlays: readonly Laid[]
  /** Where the pointer is, in pixels of the canvas. */
  readonly pointer?: { readonly x: number; readonly y: number } | undefined
  /** What is laid over it lies in front: both count the same. */
  readonly isPair?: boolean
  /** The colour of its first curve, by name. */
  readonly colour?: string
}

const FONT = '11px "Atkinson Hyperlegible Mono Variable", monospace'
/** Curves that are laid over, told apart by their line. */
const DASHES: readonly (readonly number[])[] = [
  [5, 3],
  [2, 2],
  [8, 2, 2, 2],
]
const LAID_COLOURS = ['gate', 'pitch', 'control'] as const

const drawLaid = (sheet: Sheet, overlays: readonly Laid[]): void => {
  const { ink } = sheet
  overlays.forEach(({ plot: laid }, n) => {
    for (const curve of laid.curves)
      drawCurve(sheet, curve, {
        colour: ink.colour(LAID_COLOURS[n % LAID_COLOURS.length]!),
        width: 1.25,
        dash: DASHES[n % DASHES.length]!,
      })
  })
}

/** Draws all of it over the whole canvas; what is read at the pointer is returned. */
export const drawPlot = (
  context: CanvasRenderingContext2D,
  ink: Ink,
  drawn: Drawn,
  size: { readonly width: number; readonly height: number },
): string | undefined => {
  const { plot, overlays, pointer, colour = 'audio' } = drawn
  const area = areaOf(plot, size.width, size.height),
    sheet: Sheet = { context, ink, plot, area }
  context.clearRect(0, 0, size.width, size.height)
  context.font = FONT
  if (plot.curves[0]?.style === 'dots') drawSides(sheet)
  else drawAxes(sheet)
  context.save()
  context.beginPath()
  context.rect(area.left, area.top - 1, area.width, area.height + 2)
  context.clip()
  if (plot.picture) drawPicture(context, ink, plot.picture, area)
  if (!drawn.isPair) drawLaid(sheet, overlays)
  plot.curves.forEach((curve, n) => {
    drawCurve(sheet, curve, {
      colour: ink.colour(n === 0 ? colour : curve.name === 'right' ? 'gate' : 'neat'),
      width: n === 0 ? 1.5 : 1,
      dash: n === 0 ? [] : [4, 2],
    })
  })
  if (drawn.isPair) drawLaid(sheet, overlays)
  context.restore()
  const read = pointer && readAt(plot, area, pointer.x, pointer.y)
  const taken: [number, number][] = []
  if (read !== undefined) {
    const words = context.measureText(read).width,
      left = area.left + area.width - words
    taken.push([left - 4, area.left + area.width + MARGINS.right])
    context.textAlign = 'left'
    context.fillStyle = ink.colour('accent')
    context.fillText(read, left, area.top - 4)
    context.strokeStyle = ink.colour('accent')
    context.lineWidth = 0.75
    context.beginPath()
    context.moveTo(pointer!.x, area.top)
    context.lineTo(pointer!.x, area.top + area.height)
    context.stroke()
  }
  drawMarks(sheet, plot.marks, taken)
  return read
}
