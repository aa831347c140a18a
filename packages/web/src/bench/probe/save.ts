/** What a slot shows as a picture and as numbers. */
import { csvOf } from '@ypsilon/core/probe/csv.ts'
import type { App } from '../../app/app.ts'
import { fitted } from '../fitted.ts'
import { valueWords } from './axes.ts'
import { type Drawn, drawPlot } from './painter.ts'

const WIDTH = 960,
  HEIGHT = 420,
  TITLE = 30,
  FOOT_ROW = 18

/** A name a file may have. */
const fileName = (words: string): string => words.replaceAll(/[^\p{L}\p{N} .()+-]/gu, '').trim() || 'probe'

export interface Saved extends Drawn {
  /** `Low reed saw, spectrum` */
  readonly title: string
}

export const saveCsv = (app: App, { plot, overlays, title }: Saved): void => {
  const parts = [csvOf(plot), ...overlays.map(({ name, plot: laid }) => `${name}\n${csvOf(laid)}`)]
  const { name } = app.document.getState().patch
  app.download(`${fileName(`${name} - ${title}`)}.csv`, new Blob([parts.join('\n')], { type: 'text/csv' }))
}

/** Twice as sharp as on the page, on the card's paper, with its title and what it reads. */
export const savePng = (app: App, saved: Saved): void => {
  const canvas = document.createElement('canvas'),
    { plot, overlays, title } = saved,
    { name } = app.document.getState().patch
  const rows = Math.ceil(plot.readings.length / 4) + (overlays.length > 0 ? 1 : 0),
    height = HEIGHT + TITLE + rows * FOOT_ROW + 8
  fitted(canvas, { width: WIDTH, height }, 2)
  const context = canvas.getContext('2d')!
  context.save()
  context.translate(0, TITLE)
  drawPlot(context, app.frames, { ...saved, pointer: undefined }, { width: WIDTH, height: HEIGHT })
  context.restore()
  context.globalCompositeOperation = 'destination-over'
  context.fillStyle = app.frames.colour('card')
  context.fillRect(0, 0, WIDTH, height)
  context.globalCompositeOperation = 'source-over'
  context.fillStyle = app.frames.colour('ink')
  context.font = '15px "Atkinson Hyperlegible Next Variable", sans-serif'
  context.textAlign = 'left'
  context.fillText(`${name}: ${title}`, 12, 20)
  context.font = '12px "Atkinson Hyperlegible Mono Variable", monospace'
  plot.readings.forEach(({ name: reading, value, unit }, n) => {
    const row = Math.floor(n / 4)
    context.fillText(
      `${reading} ${valueWords(value, unit)}`,
      12 + (n % 4) * (WIDTH / 4),
      TITLE + HEIGHT + 14 + row * FOOT_ROW,
    )
  })
  if (overlays.length > 0)
    context.fillText(
      `over it: ${overlays.map((each) => each.name).join(', ')}`,
      12,
      TITLE + HEIGHT + 14 + (rows - 1) * FOOT_ROW,
    )
  canvas.toBlob((blob) => {
    if (blob) app.download(`${fileName(`${name} - ${title}`)}.png`, blob)
  }, 'image/png')
}
