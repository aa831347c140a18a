/** Draws levels over time and frequency as a picture, from the card's colour to that of ink. */
import type { Picture } from '@ypsilon/core/probe/plot.ts'
import { mixed, rgbOf } from '../chart/pixels.ts'
import type { Ink } from '../frames.ts'
import type { Area } from './sheet.ts'

const LEVELS = 256,
  OPAQUE = 0xff000000
/** Below this share of the range nothing is drawn: noise would grey the paper. */
const FOOT = 0.25,
  /** From here on the loudest stand out in a second colour. */
  LOUD = 0.7

let canvas: OffscreenCanvas | undefined
let palette: { readonly key: string; readonly words: Uint32Array<ArrayBuffer> } | undefined

/** Colours of all levels, as they lie in memory. */
const paletteOf = (ink: Ink): Uint32Array<ArrayBuffer> => {
  const stops = ['card', 'audio', 'gate'].map((name) => ink.colour(name)),
    key = stops.join()
  if (palette?.key === key) return palette.words
  const [low, middle, high] = stops.map(rgbOf) as [number, number, number]
  const words = Uint32Array.from({ length: LEVELS }, (_, level) => {
    const share = Math.max(0, (level / (LEVELS - 1) - FOOT) / (1 - FOOT))
    const rgb =
      share < LOUD ? mixed(low, middle, share / LOUD) : mixed(middle, high, (share - LOUD) / (1 - LOUD))
    return (OPAQUE | rgb) >>> 0
  })
  palette = { key, words }
  return words
}

export const drawPicture = (
  context: CanvasRenderingContext2D,
  ink: Ink,
  { columns, rows, levels }: Picture,
  area: Area,
): void => {
  const words = paletteOf(ink),
    pixels = new Uint32Array(columns * rows)
  for (let column = 0; column < columns; column += 1)
    for (let row = 0; row < rows; row += 1)
      pixels[(rows - 1 - row) * columns + column] = words[levels[column * rows + row]!]!
  if (canvas?.width !== columns || canvas.height !== rows) canvas = new OffscreenCanvas(columns, rows)
  canvas
    .getContext('2d')!
    .putImageData(new ImageData(new Uint8ClampedArray(pixels.buffer), columns, rows), 0, 0)
  context.imageSmoothingEnabled = true
  context.drawImage(canvas, area.left, area.top, area.width, area.height)
}
