/** Pictures of a table: its frames in depth, one wave, and the levels of its partials. */
import type { Frame, Frames } from '@ypsilon/core/describe/waves.ts'
import type { Ink } from '../../frames.ts'
import type { Size } from '../../fitted.ts'

type Context = CanvasRenderingContext2D
/** Lines that are drawn of a table at the most; the selected one always. */
const MOST_LINES = 48
/** Samples of a line in depth. */
const POINTS = 128

/** Shares of the picture that depth takes: each frame stands a little further up and to the right. */
export const DEPTH = { x: 0.3, y: 0.55 } as const

/** Where a frame stands in depth, 0 in front. */
export const placeOf = (index: number, count: number, { width, height }: Size) => {
  const share = count > 1 ? index / (count - 1) : 0
  return {
    left: 6 + share * DEPTH.x * width,
    middle: height - 8 - 0.2 * height - share * DEPTH.y * height,
    width: (1 - DEPTH.x) * width - 12,
    height: 0.17 * height,
  }
}

/** The frame next to a height of the picture. */
export const frameAt = (y: number, count: number, { height }: Size): number => {
  const share = (height - 8 - 0.2 * height - y) / (DEPTH.y * height)
  return Math.min(count - 1, Math.max(0, Math.round(share * (count - 1))))
}

const line = (
  context: Context,
  frame: Frame,
  { left, middle, width, height }: ReturnType<typeof placeOf>,
): void => {
  context.beginPath()
  for (let i = 0; i <= POINTS; i += 1) {
    const x = left + (width * i) / POINTS,
      y = middle - height * frame[Math.floor((i * (frame.length - 1)) / POINTS)]!
    if (i === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
  context.stroke()
}

export const drawStack = (context: Context, ink: Ink, frames: Frames, selected: number, size: Size): void => {
  context.clearRect(0, 0, size.width, size.height)
  const step = Math.max(1, Math.ceil(frames.length / MOST_LINES))
  const shown = frames.flatMap((_, n) => (n % step === 0 || n === frames.length - 1 ? [n] : [])).reverse()
  for (const n of shown) {
    context.strokeStyle = ink.colour('audio')
    context.lineWidth = 1
    context.globalAlpha = 0.35
    line(context, frames[n]!, placeOf(n, frames.length, size))
  }
  context.globalAlpha = 1
  context.strokeStyle = ink.colour('accent')
  context.lineWidth = 2
  if (frames[selected]) line(context, frames[selected], placeOf(selected, frames.length, size))
}

export const drawWave = (context: Context, ink: Ink, frame: Frame, { width, height }: Size): void => {
  context.clearRect(0, 0, width, height)
  context.strokeStyle = ink.colour('rule')
  context.lineWidth = 1
  context.beginPath()
  for (const share of [0, 0.25, 0.5, 0.75, 1]) {
    context.moveTo(Math.round(share * (width - 1)) + 0.5, 0)
    context.lineTo(Math.round(share * (width - 1)) + 0.5, height)
    context.moveTo(0, Math.round(share * (height - 1)) + 0.5)
    context.lineTo(width, Math.round(share * (height - 1)) + 0.5)
  }
  context.stroke()
  context.strokeStyle = ink.colour('audio')
  context.lineWidth = 1.75
  context.beginPath()
  for (let i = 0; i < frame.length; i += 1) {
    const x = (i / (frame.length - 1)) * width,
      y = (0.5 - 0.48 * frame[i]!) * height
    if (i === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
  context.stroke()
}

/** Levels over 60 dB, a bar a partial. */
export const BAR_DB = 60
export const heightOfLevel = (amplitude: number): number =>
  amplitude > 0 ? Math.max(0, 1 + (20 * Math.log10(amplitude)) / BAR_DB) : 0
export const levelAtHeight = (height: number): number =>
  height <= 0.01 ? 0 : 10 ** ((Math.min(1, height) - 1) * (BAR_DB / 20))

export const drawBars = (
  context: Context,
  ink: Ink,
  partials: readonly number[],
  { width, height }: Size,
): void => {
  context.clearRect(0, 0, width, height)
  context.strokeStyle = ink.colour('rule')
  context.strokeRect(0.5, 0.5, width - 1, height - 1)
  context.fillStyle = ink.colour('audio')
  const step = width / partials.length
  partials.forEach((amplitude, n) => {
    const size = heightOfLevel(amplitude) * (height - 2)
    context.fillRect(n * step + 1, height - 1 - size, Math.max(1, step - 2), size)
  })
}
