/** Draws marks on curves, and their words in the band above. */
import type { Mark, MarkKind } from '@ypsilon/core/probe/plot.ts'
import { shareOf } from './axes.ts'
import { placeLabels } from './labels.ts'
import { MARGINS, type Sheet, xOf, yOf } from './sheet.ts'

/** A sign for every kind, so that it reads in black and white. */
const SIGNS: Readonly<Record<MarkKind, string>> = {
  peak: 'M0-4L3 1H-3Z',
  carrier: 'M0-5L4 0L0 5L-4 0Z',
  sum: 'M-3.5 0H3.5M0-3.5V3.5',
  difference: 'M-4 0H4',
  folded: 'M3 0A3 3 0 1 1-3 0A3 3 0 1 1 3 0',
}
const signs = new Map<string, Path2D>()
const signOf = (kind: MarkKind): Path2D => {
  let path = signs.get(kind)
  if (!path) {
    path = new Path2D(SIGNS[kind])
    signs.set(kind, path)
  }
  return path
}

export const drawMarks = (
  sheet: Sheet,
  marks: readonly Mark[],
  taken: readonly (readonly [number, number])[],
): void => {
  const { context, ink, plot, area } = sheet
  const seen = marks.filter(({ x }) => shareOf(plot.across, x) >= 0 && shareOf(plot.across, x) <= 1)
  context.textAlign = 'left'
  const rows = Math.round((area.top - MARGINS.top) / MARGINS.row)
  const places = placeLabels(
    seen.map(({ x, words }) => ({
      x: xOf(plot.across, area, x),
      width: context.measureText(words).width,
    })),
    { width: area.left + area.width + MARGINS.right, rows, taken: [[0, area.left - 2], ...taken] },
  )
  const isBars = plot.curves[0]?.style === 'bars'
  seen.forEach((mark, n) => {
    const x = xOf(plot.across, area, mark.x),
      y = yOf(plot.up, area, mark.y),
      place = places[n]
    if (place) {
      const foot = area.top - 4 - place.row * MARGINS.row
      context.strokeStyle = ink.colour('neat')
      context.lineWidth = 0.75
      context.beginPath()
      context.moveTo(x, Math.max(foot + 2, area.top - 3 - place.row * MARGINS.row))
      context.lineTo(x, Math.max(foot + 2, y - 7))
      context.stroke()
      context.fillStyle = ink.colour('ink')
      context.fillText(mark.words, place.left, foot)
    }
    if (isBars) return
    context.save()
    context.translate(x, mark.kind === 'peak' ? y - 4 : y)
    context.strokeStyle = ink.colour(mark.kind === 'folded' ? 'gate' : 'accent')
    context.fillStyle = ink.colour('accent')
    context.lineWidth = 1.5
    if (mark.kind === 'peak' || mark.kind === 'carrier') context.fill(signOf(mark.kind))
    else context.stroke(signOf(mark.kind))
    context.restore()
  })
}
