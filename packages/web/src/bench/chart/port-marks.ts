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

/** The same as the path of an outline around a place. */
export const markOutline = (kind: SignalKind, x: number, y: number, r: number): string => {
  const at = (across: number, down: number): string => `${x + across * r} ${y + down * r}`
  if (kind === 'audio')
    return `M${at(0.9, 0)}A${0.9 * r} ${0.9 * r} 0 1 1 ${at(-0.9, 0)}A${0.9 * r} ${0.9 * r} 0 1 1 ${at(0.9, 0)}z`
  if (kind === 'gate') return `M${at(-0.85, -0.85)}L${at(0.85, -0.85)}L${at(0.85, 0.85)}L${at(-0.85, 0.85)}z`
  if (kind === 'pitch') return `M${at(-0.85, -0.95)}L${at(1, 0)}L${at(-0.85, 0.95)}z`
  return `M${at(0, -1.1)}L${at(1.1, 0)}L${at(0, 1.1)}L${at(-1.1, 0)}z`
}
