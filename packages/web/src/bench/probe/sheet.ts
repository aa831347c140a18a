/** Where a plot stands on its canvas: margins for what is written, so that none of it lies on a curve. */
import type { Axis, Plot } from '@ypsilon/core/probe/plot.ts'
import type { Ink } from '../frames.ts'
import { shareOf } from './axes.ts'

export interface Area {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

/** Pixels beside the picture; `row`: one row of words above it. */
export const MARGINS = { left: 38, right: 10, foot: 17, row: 14, top: 6 } as const
/** Two rows of words where a picture is this high. */
const HIGH = 110

/** Where the picture of a canvas stands. */
export const areaOf = (plot: Plot, width: number, height: number): Area => {
  const rows = rowsOf(plot, height),
    top = MARGINS.top + rows * MARGINS.row
  return {
    left: MARGINS.left,
    top,
    width: Math.max(10, width - MARGINS.left - MARGINS.right),
    height: Math.max(10, height - top - MARGINS.foot),
  }
}

const rowsOf = ({ marks }: Plot, height: number): number => (marks.length === 0 ? 1 : height > HIGH ? 2 : 1)

export const xOf = (axis: Axis, area: Area, value: number): number =>
  area.left + shareOf(axis, value) * area.width
export const yOf = (axis: Axis, area: Area, value: number): number =>
  area.top + (1 - Math.min(1, Math.max(0, shareOf(axis, value)))) * area.height

export interface Sheet {
  readonly context: CanvasRenderingContext2D
  readonly ink: Ink
  readonly plot: Plot
  readonly area: Area
}

/** As far across as up, in the middle: a circle is a circle. */
export const squareOf = ({ left, top, width, height }: Area): Area => {
  const side = Math.min(width, height)
  return { left: left + (width - side) / 2, top, width: side, height: side }
}
