/** Where everything on a card stands on the chart. */
import {
  CARD_WIDTH,
  type CardLayout,
  HEAD,
  OUT_ROW,
  type Rect,
  ROW,
  rowName,
  takesCable,
} from '@ypsilon/core'
import type { Box, Point } from './routing.ts'

/** Where a port stands on the chart; on the head while its row is hidden. */
export const portPoint = (
  layout: CardLayout,
  x: number,
  y: number,
  name: string,
  side: 'in' | 'out',
): Point => {
  const port = layout.ports.get(name)
  return port ? { x: x + port.x, y: y + port.y } : { x: side === 'in' ? x : x + CARD_WIDTH, y: y + HEAD / 2 }
}

/** The row that takes a cable at a height of the card. */
export const rowAt = (layout: CardLayout, y: number): string | undefined => {
  const row = layout.rows[Math.floor((y - HEAD) / ROW)]
  return row && y >= HEAD && takesCable(row) ? rowName(row) : undefined
}
/** The output whose row is at a height of the card. */
export const outputAt = (layout: CardLayout, y: number): string | undefined => {
  const below = y - HEAD - layout.rows.length * ROW
  return below < 0 ? undefined : layout.outputs[Math.floor(below / OUT_ROW)]?.name
}

/** A rectangle of the patch as a box of the chart. */
export const boxOfRect = ({ x, y, width, height }: Rect): Box => ({
  left: x,
  top: y,
  right: x + width,
  bottom: y + height,
})

export const boxOf = (layout: CardLayout, x: number, y: number): Box => ({
  left: x,
  top: y,
  right: x + CARD_WIDTH,
  bottom: y + layout.height,
})
