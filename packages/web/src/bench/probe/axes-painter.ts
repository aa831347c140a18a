/** Draws axes: lines within the picture, numbers and units in its margins. */
import { ticksOf, unitOf } from './axes.ts'
import { type Area, MARGINS, type Sheet, squareOf, xOf, yOf } from './sheet.ts'

/** Where words under the picture stand. */
const footOf = ({ top, height }: Area): number => top + height + 13
/** Pixels between two of them. */
const APART = 7

/** Names of bars, where each has room. */
const drawNames = ({ context, plot: { across }, area }: Sheet, names: readonly string[]): void => {
  const room = area.width / names.length
  if (names.some((name) => context.measureText(name).width > room - 2)) return
  names.forEach((name, n) => {
    context.fillText(name, xOf(across, area, n + 0.5), footOf(area))
  })
}

const drawAcross = ({ context, plot: { across }, area }: Sheet): void => {
  const { left, top, width, height } = area,
    unit = unitOf(across),
    foot = footOf(area),
    end = left + width + MARGINS.right,
    last = end - (unit ? context.measureText(unit).width + APART : 0)
  // Words stand beside each other, whatever ticks there are; the unit has a place of its own.
  let free = left - 10
  for (const { value, words } of ticksOf(across, width, 48)) {
    const x = Math.round(xOf(across, area, value)) + 0.5,
      half = context.measureText(words).width / 2,
      at = Math.max(left - 8 + half, Math.min(x, end - half))
    context.moveTo(x, top)
    context.lineTo(x, top + height)
    if (at - half < free || at + half > last) continue
    context.fillText(words, at, foot)
    free = at + half + APART
  }
  context.textAlign = 'right'
  if (unit) context.fillText(unit, end - 2, foot)
}

/** A square that stands on its corner: what is left and right alike goes upright. */
export const drawSides = ({ context, ink, area }: Sheet): void => {
  const { left, top, width, height } = squareOf(area),
    middle = left + width / 2
  context.strokeStyle = ink.colour('rule')
  context.lineWidth = 1
  context.beginPath()
  context.rect(left + 0.5, Math.round(top) + 0.5, width - 1, height - 1)
  context.moveTo(left, top)
  context.lineTo(left + width, top + height)
  context.moveTo(left + width, top)
  context.lineTo(left, top + height)
  context.moveTo(middle, top)
  context.lineTo(middle, top + height)
  context.stroke()
  context.fillStyle = ink.colour('ink2')
  context.textAlign = 'center'
  context.fillText('L', left - 9, top + 8)
  context.fillText('R', left + width + 9, top + 8)
  context.fillText('both', middle, top - 5)
}

export const drawAxes = (sheet: Sheet): void => {
  const {
    context,
    ink,
    plot: { across, up },
    area,
  } = sheet
  const { left, top, width, height } = area
  context.strokeStyle = ink.colour('rule')
  context.fillStyle = ink.colour('ink2')
  context.lineWidth = 1
  context.beginPath()
  context.rect(left + 0.5, Math.round(top) + 0.5, width - 1, height - 1)
  context.textBaseline = 'middle'
  context.textAlign = 'right'
  const rising = ticksOf(up, height, 18)
  for (const { value, words } of rising) {
    const y = Math.round(yOf(up, area, value)) + 0.5
    context.moveTo(left, y)
    context.lineTo(left + width, y)
    context.fillText(words, left - 5, Math.max(top + 5, y))
  }
  context.textBaseline = 'alphabetic'
  context.textAlign = 'center'
  if (across.names) drawNames(sheet, across.names)
  else drawAcross(sheet)
  context.stroke()
  // The unit of what goes up stands above its numbers.
  context.textAlign = 'right'
  if (unitOf(up)) context.fillText(unitOf(up), left - 5, Math.max(9, top - 5))
}
