/** Marks of ports in pixels: round audio, diamond control, triangle pitch, square gate. */
import type { SignalKind } from '@ypsilon/core'
import { Pixels, type Rgb } from './pixels.ts'

/** Across, at 100 %, and what they do not fall below on the screen. */
const ACROSS = 10,
  LEAST_PX = 7
const RIM = 1.5

/** A mark's width on the screen at a zoom, in pixels. */
export const markWidth = (zoom: number): number => Math.max(ACROSS * zoom, LEAST_PX)

/** Distance to the edge of each mark of half width r: negative inside. */
const DISTANCE: Readonly<Record<SignalKind, (x: number, y: number, r: number) => number>> = {
  audio: (x, y, r) => Math.hypot(x, y) - 0.9 * r,
  gate: (x, y, r) => Math.max(Math.abs(x), Math.abs(y)) - 0.85 * r,
  control: (x, y, r) => (Math.abs(x) + Math.abs(y) - 1.1 * r) / Math.SQRT2,
  pitch: (x, y, r) => Math.max(-x - 0.85 * r, (0.95 * x + 1.9 * Math.abs(y) - 0.95 * r) / 2.12),
}

/** A mark, drawn once and stamped wherever it stands. */
export const markPixels = (kind: SignalKind, width: number, fill: Rgb, rim: Rgb): Pixels => {
  const size = Math.ceil(width) + 4,
    pixels = new Pixels(size, size),
    distance = DISTANCE[kind],
    r = width / 2
  pixels.shape(size / 2, size / 2, size / 2, (x, y) => distance(x, y, r), fill, rim, RIM)
  return pixels
}
