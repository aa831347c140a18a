/** Marks of ports on a canvas: round audio, diamond control, triangle pitch, square gate. */
import type { SignalKind } from '@ypsilon/core'

/** Across, at 100 %, and what they do not fall below on the screen. */
const ACROSS = 10,
  LEAST_PX = 7

/** Half a mark's width on the chart at a zoom. */
export const markSize = (zoom: number): number => Math.max(ACROSS, LEAST_PX / zoom) / 2

export const markPath = (path: Path2D, kind: SignalKind, x: number, y: number, r: number): void => {
  if (kind === 'audio') {
    path.moveTo(x + 0.9 * r, y)
    path.arc(x, y, 0.9 * r, 0, 2 * Math.PI)
    return
  }
  if (kind === 'gate') {
    path.rect(x - 0.85 * r, y - 0.85 * r, 1.7 * r, 1.7 * r)
    return
  }
  const corners =
    kind === 'pitch'
      ? [
          [-0.9, -0.95],
          [1, 0],
          [-0.9, 0.95],
        ]
      : [
          [0, -1.05],
          [1.05, 0],
          [0, 1.05],
          [-1.05, 0],
        ]
  corners.forEach(([across = 0, down = 0], index) => {
    if (index === 0) path.moveTo(x + across * r, y + down * r)
    else path.lineTo(x + across * r, y + down * r)
  })
  path.closePath()
}
