/** What draws the pictures of the chart: traces of outputs on rows, and the pictures of soundings. */
import {
  descriptionOf,
  noteName,
  type Patch,
  type PatchModule,
  pictureOf,
  type Playing,
  type RecordingShape,
  type SignalKind,
  type Told,
} from '@ypsilon/core'
import { cablesTo } from '../cable-index.ts'
import type { Ink } from '../frames.ts'
import { clearFrame, type Painter } from './picture-layer.ts'
import { type Pixels, rgbOf } from './pixels.ts'
import { drawDatum, drawLine, drawPicture, type Frame } from './profile.ts'
import { SignalPoints } from './signal-points.ts'
import type { TextContext } from './surface.ts'

/** Values that differ by less than this share of themselves draw the same. */
const STILL = 1e-3
const NOTE_FONT = '10.5px "Atkinson Hyperlegible Mono Variable", monospace'

/** What is beyond full scale is marked for so long. */
const CLIP_MS = 3000,
  CLIP_PX = 4,
  /** Band-limited corners of a wave of full scale go a little beyond it. */
  BEYOND = 1.2

/** Notes when a sound goes beyond full scale. */
class ClipMark {
  private at = -Infinity

  /** Whether a sound has been beyond it lately. */
  take(picture: { readonly min: number; readonly max: number } | undefined): boolean {
    const now = performance.now()
    // What never crosses 0 is no sound: sums of pitches and controls go as far as they like.
    const isSound = picture !== undefined && picture.min < 0 && picture.max > 0
    if (isSound && Math.max(-picture.min, picture.max) > BEYOND) this.at = now
    return now - this.at < CLIP_MS
  }
}

/** The mark of it: a block in the picture's upper right corner. */
const drawClip = (pixels: Pixels, { left, top, width, ratio }: Frame, ink: Ink): void => {
  const right = left + width
  pixels.rect(right - CLIP_PX * ratio, top, right, top + CLIP_PX * ratio, rgbOf(ink.colour('warn')))
}

/** The live trace on an output's row. */
export class TracePainter implements Painter {
  private readonly signal: SignalPoints
  private readonly clip = new ClipMark()
  constructor(
    private readonly key: string,
    private readonly kind: SignalKind,
  ) {
    this.signal = new SignalPoints(kind)
  }

  draw(pixels: Pixels, frame: Frame, ink: Ink, isFresh: boolean): boolean {
    const picture = ink.picture(this.key)
    if (!picture && !isFresh) return false
    clearFrame(pixels, frame)
    drawLine(pixels, this.signal.take(picture), frame, rgbOf(ink.colour(picture ? this.kind : 'rule')), false)
    if (this.kind === 'audio' && this.clip.take(picture)) drawClip(pixels, frame, ink)
    return true
  }

  write(context: TextContext, left: number, top: number, ink: Ink): void {
    const picture = this.kind === 'pitch' ? ink.picture(this.key) : undefined
    if (!picture) return
    context.font = NOTE_FONT
    context.fillStyle = ink.colour('ink2')
    context.fillText(noteName(Math.round(60 + 12 * picture.last)), left, top + 8)
  }
}

/** A signal the engine can be asked for, and what it carries. */
export interface Signal {
  readonly key: string
  readonly kind: SignalKind
}

/** The signal that stands for a module: its main output's, or what comes in. */
export const signalOf = (patch: Patch, module: PatchModule): Signal | undefined => {
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
  const told = (description.tells ?? []).map((name) => `${module.id}.${name}`)
  return [...moved, ...told, ...(signal ? [signal.key] : [])]
}

/** A module's own picture, as it plays. */
export class SoundingPainter implements Painter {
  private readonly signal: SignalPoints
  private readonly clip = new ClipMark()
  private wasClipped = false
  private readonly key: string | undefined
  private readonly hue: SignalKind
  /** What the picture was drawn from, by signal; NaN where nothing was told. */
  private told = new Map<string, number>()
  private wasMoving = false
  /** Recordings it was drawn with. */
  private readonly drawn = new Map<string, RecordingShape | undefined>()

  /** `signal`: the one that stands for the module. */
  constructor(
    private readonly module: PatchModule,
    signal: Signal | undefined,
    private readonly recording: (name: string) => RecordingShape | undefined = () => undefined,
  ) {
    this.key = signal?.key
    this.hue = signal?.kind ?? 'audio'
    this.signal = new SignalPoints(this.hue)
  }

  draw(pixels: Pixels, frame: Frame, ink: Ink, isFresh: boolean): boolean {
    const description = descriptionOf(this.module)
    return description === undefined || description.picture === 'signal'
      ? this.drawSignal(pixels, frame, ink, isFresh)
      : this.drawOwn(pixels, frame, ink, isFresh)
  }

  private drawSignal(pixels: Pixels, frame: Frame, ink: Ink, isFresh: boolean): boolean {
    const told = this.key === undefined ? undefined : ink.picture(this.key)
    if (!told && !isFresh) return false
    clearFrame(pixels, frame)
    drawDatum(pixels, frame, rgbOf(ink.colour('ink2')))
    if (this.key === undefined) return true
    const rgb = rgbOf(ink.colour(told ? this.hue : 'rule'))
    drawLine(pixels, this.signal.take(told), frame, rgb, told !== undefined)
    if (this.isClipped(ink)) drawClip(pixels, frame, ink)
    return true
  }

  private isClipped(ink: Ink): boolean {
    return this.key !== undefined && this.hue === 'audio' && this.clip.take(ink.picture(this.key))
  }

  private drawOwn(pixels: Pixels, frame: Frame, ink: Ink, isFresh: boolean): boolean {
    const isClipped = this.isClipped(ink)
    if (!isFresh && isClipped === this.wasClipped && !this.isOther(ink)) return false
    this.wasClipped = isClipped
    this.drawn.clear()
    const picture = pictureOf(this.module, this.playing(ink), (name) => {
      const shape = this.recording(name)
      this.drawn.set(name, shape)
      return shape
    })
    if (!picture) return false
    clearFrame(pixels, frame)
    drawDatum(pixels, frame, rgbOf(ink.colour('ink2')))
    drawPicture(pixels, picture, frame, {
      main: rgbOf(ink.colour(this.hue)),
      second: rgbOf(ink.colour('ink2')),
      dot: rgbOf(ink.colour('ink')),
    })
    if (isClipped) drawClip(pixels, frame, ink)
    return true
  }

  /** Does the engine tell anything else than what the picture was drawn from? What was moving is drawn once more. */
  private isOther(ink: Ink): boolean {
    if (this.wasMoving) return true
    // A recording may have come since.
    for (const [name, shape] of this.drawn) if (this.recording(name) !== shape) return true
    for (const [key, value] of this.told) {
      const now = ink.picture(key)?.last
      if ((now === undefined) !== Number.isNaN(value)) return true
      if (now !== undefined && Math.abs(now - value) > STILL * Math.abs(value)) return true
    }
    return false
  }

  /** What the engine tells; everything that is asked for is noted. */
  private playing(ink: Ink): Playing {
    const { id } = this.module
    const before = this.told
    this.told = new Map()
    this.wasMoving = false
    const tell = (key: string): number | undefined => {
      const value = ink.picture(key)?.last
      this.told.set(key, value ?? NaN)
      return value
    }
    return {
      param: (name) => tell(`>${id}.${name}`),
      output: (name): Told | undefined => {
        const key = `${id}.${name}`,
          last = before.get(key),
          value = tell(key)
        if (value === undefined) return undefined
        const earlier = last === undefined || Number.isNaN(last) ? value : last
        this.wasMoving ||= earlier !== value
        return { value, before: earlier }
      },
    }
  }
}
