/** Pictures as depth profiles: a line over a datum with the chart's scale, filled down to it. */
import type { Picture } from '@ypsilon/core'
import { type Pixels, Profile, type Rgb } from './pixels.ts'

/** Where a picture stands, in device pixels, and how many of them a pixel of the screen is. */
export interface Frame {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
  readonly ratio: number
}

type Points = readonly (readonly [x: number, y: number])[]

const FILL = 0.16,
  LINE = 1.4
/** Marks along a datum: every so many pixels, every fifth taller. */
const DIVISION = 8,
  TALL_EVERY = 5

/** The line a picture stands on. */
export const drawDatum = (pixels: Pixels, { left, top, width, height, ratio }: Frame, rgb: Rgb): void => {
  const bottom = Math.round(top + height),
    thin = Math.max(1, Math.round(ratio))
  pixels.rect(left, bottom - thin, left + width, bottom, rgb)
  for (let n = 0; n * DIVISION * ratio <= width; n += 1) {
    const x = Math.round(left + n * DIVISION * ratio)
    pixels.rect(x, bottom - (n % TALL_EVERY === 0 ? 4 : 2) * ratio, x + thin, bottom, rgb)
  }
}

/** Share of a picture that a bar is wide at most. */
export const WIDEST_BAR = 0.16

const clamped = (value: number): number => Math.min(1, Math.max(0, value))
const profile = new Profile()

/** A line through points within 0…1, and what is under it. */
export const drawLine = (
  pixels: Pixels,
  points: Points,
  { left, top, width, height, ratio }: Frame,
  rgb: Rgb,
  isFilled: boolean,
): void => {
  profile.begin()
  for (const [x, y] of points)
    profile.add(left + clamped(x) * width, top + (1 - clamped(y)) * (height - 2 * ratio) + ratio)
  pixels.profile(profile, top + height, LINE * ratio, rgb, isFilled ? FILL : 0)
}

const drawBars = (pixels: Pixels, points: Points, frame: Frame, rgb: Rgb, isSteps: boolean): void => {
  const { left, top, width, height, ratio } = frame
  const half = Math.max(1.5 * ratio, Math.min(width / points.length - 2 * ratio, width * WIDEST_BAR)) / 2
  for (const [a, b] of points) {
    const high = Math.max(ratio, clamped(b) * height),
      x = left + a * width
    pixels.rect(
      Math.max(left, x - half),
      top + height - high,
      Math.min(left + width, x + half),
      top + height,
      rgb,
      isSteps && b === 0 ? 0.2 : 0.55,
    )
  }
}

const DOT = 3

/** Colours a picture is drawn with. */
export interface PictureHues {
  readonly main: Rgb
  readonly second: Rgb
  readonly dot: Rgb
}

/** A module's own picture. */
export const drawPicture = (
  pixels: Pixels,
  { kind, curves, dots = [] }: Picture,
  frame: Frame,
  { main, second, dot }: PictureHues,
): void => {
  curves.forEach(({ points }, index) => {
    if (kind !== 'line') drawBars(pixels, points, frame, index === 0 ? main : second, kind === 'steps')
    else drawLine(pixels, points, frame, index === 1 && curves.length === 2 ? second : main, index === 0)
  })
  const { left, top, width, height, ratio } = frame,
    r = DOT * ratio
  for (const [a, b] of dots)
    pixels.shape(
      left + a * width,
      top + (1 - clamped(b)) * (height - 2 * ratio) + ratio,
      r + 1,
      (x, y) => Math.hypot(x, y) - r,
      dot,
      dot,
      0,
    )
}
