/** What draws the pictures of the chart: traces of outputs on rows, and the pictures of soundings. */
import {
  descriptionOf,
  noteName,
  type Patch,
  type PatchModule,
  pictureOf,
  type Playing,
  type SignalKind,
  type Told,
} from '@ypsilon/core'
import { cablesTo } from '../cable-index.ts'
import type { Ink } from '../frames.ts'
import type { Painter } from './picture-layer.ts'
import { drawDatum, drawLine, drawMarks, drawPicture, type Frame } from './profile.ts'
import { SignalPoints } from './signal-points.ts'

const FAINT = 0.35
const NOTE_FONT = '10.5px "Atkinson Hyperlegible Mono Variable", monospace'

/** The live trace on an output's row. */
export class TracePainter implements Painter {
  private readonly signal: SignalPoints
  constructor(
    private readonly key: string,
    private readonly kind: SignalKind,
  ) {
    this.signal = new SignalPoints(kind)
  }

  draw(context: CanvasRenderingContext2D, frame: Frame, ink: Ink): void {
    const picture = ink.picture(this.key)
    context.globalAlpha = picture ? 1 : FAINT
    drawLine(context, this.signal.take(picture), frame, ink.colour(this.kind), false)
    context.globalAlpha = 1
    if (this.kind !== 'pitch' || !picture) return
    context.font = NOTE_FONT
    context.fillStyle = ink.colour('ink2')
    context.fillText(noteName(Math.round(60 + 12 * picture.last)), frame.left, frame.top + 8)
  }
}

/** The signal that stands for a module: its main output's, or what comes in. */
export const signalOf = (
  patch: Patch,
  module: PatchModule,
): { readonly key: string; readonly kind: SignalKind } | undefined => {
  const description = descriptionOf(module)
  const main =
    description?.outputs.find(({ name }) => description.front?.includes(name)) ?? description?.outputs[0]
  if (main) return { key: `${module.id}.${main.name}`, kind: main.kind }
  for (const { name, kind } of description?.inputs ?? []) {
    const [cable] = cablesTo(patch, `${module.id}.${name}`)
    if (cable) return { key: cable.from, kind }
  }
  return undefined
}

/** Signals a module's picture is drawn from: its moved parameters, and outputs that it shows the state of. */
export const watchedBy = (
  patch: Patch,
  module: PatchModule,
  used: ReadonlySet<string>,
): readonly string[] => {
  const description = descriptionOf(module)
  const signal = signalOf(patch, module)
  if (!description || description.picture === 'signal') return signal ? [signal.key] : []
  const moved = description.params
    .filter(({ name, kind }) => kind === 'number' && used.has(name))
    .map(({ name }) => `>${module.id}.${name}`)
  return [...moved, ...(signal ? [signal.key] : [])]
}

/** A module's own picture, as it plays. */
export class SoundingPainter implements Painter {
  private readonly signal: SignalPoints
  private readonly key: string | undefined
  private readonly hue: SignalKind
  private before = new Map<string, number>()

  constructor(
    patch: Patch,
    private readonly module: PatchModule,
    private readonly hasMarks = false,
  ) {
    const { key, kind } = signalOf(patch, module) ?? { key: undefined, kind: 'audio' as const }
    this.key = key
    this.hue = kind
    this.signal = new SignalPoints(kind)
  }

  draw(context: CanvasRenderingContext2D, frame: Frame, ink: Ink): void {
    drawDatum(context, frame, ink)
    const picture = pictureOf(this.module, this.playing(ink))
    if (picture && this.hasMarks) drawMarks(context, picture, frame, ink)
    if (picture) drawPicture(context, picture, frame, this.hue, ink)
    else if (this.key !== undefined) {
      const told = ink.picture(this.key)
      if (!told) context.globalAlpha = FAINT
      drawLine(context, this.signal.take(told), frame, ink.colour(this.hue), told !== undefined)
      context.globalAlpha = 1
    }
  }

  private playing(ink: Ink): Playing {
    const { id } = this.module
    return {
      param: (name) => ink.picture(`>${id}.${name}`)?.last,
      output: (name): Told | undefined => {
        const picture = ink.picture(`${id}.${name}`)
        if (!picture) return undefined
        const before = this.before.get(name) ?? picture.last
        this.before.set(name, picture.last)
        return { value: picture.last, before }
      },
    }
  }
}
