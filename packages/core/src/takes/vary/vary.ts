/**
 * Variations one would keep: drawn one after the other, heard, and thrown away where they are silent, where the ear guard
 * works more than for the patch itself, or where they sound almost as one that is there already. What is kept hangs on the
 * seed alone, however many are heard at once.
 */
import { peakOf } from '../../analysis/truepeak.ts'
import type { Sound } from '../../formats/wav.ts'
import { faultText, type Result } from '../../patch/types.ts'
import type { Rendered } from '../../render/render.ts'
import type { VariationValues } from '../kit/plan.ts'
import { notePlayed } from '../note.ts'
import type { StepPatch } from '../step.ts'
import { distanceOf, type Print, printOf } from './print.ts'

/** What is played to hear one. */
export interface Phrase {
  readonly note: number
  readonly velocity: number
  /** Seconds it is held, and heard at the most after that. */
  readonly hold: number
  readonly tail: number
  readonly rate: number
}

export const PHRASE: Phrase = { note: 60, velocity: 0.8, hold: 1, tail: 3, rate: 48000 }

/** What is heard of a variation: plain data. */
export interface HeardVariation {
  readonly print: Print
  readonly peak: number
  /** Seconds in which the ear guard worked. */
  readonly limitedSeconds: number
  /** Why it cannot be played at all. */
  readonly fault?: string
}

export interface Variation {
  readonly values: VariationValues
  readonly print: Print
  /** From the patch itself, in dB. */
  readonly distance: number
}

export interface VaryReport {
  readonly variations: readonly Variation[]
  /** How many were drawn, and thrown away for what. */
  readonly drawn: number
  readonly silent: number
  readonly limited: number
  readonly near: number
}

/** Softer than this is silent. */
const SILENT_PEAK = 0.001
/** Nearer than this is the same to the ear, in dB. */
export const NEAR_DB = 1
/** Draws for every one that is wanted. */
const MOST_DRAWS = 20

/** A phrase played on a variation. */
const played = (
  kernels: WebAssembly.Module,
  source: StepPatch,
  values: VariationValues,
  { tail, ...note }: Phrase,
): Result<Rendered> => notePlayed(kernels, source, values, { ...note, tail: { db: -60, most: tail } })

/** The same, where it can be played. Throws why it cannot. */
export const soundOf = (...args: Parameters<typeof played>): Sound => {
  const result = played(...args)
  if (!result.ok) throw new Error(result.faults.map(faultText).join('; '))
  return result.value.sound
}

/** Plays a variation and listens. */
export const hear = (...args: Parameters<typeof played>): HeardVariation => {
  const { rate } = args[3],
    result = played(...args)
  if (!result.ok)
    return { print: [], peak: 0, limitedSeconds: 0, fault: result.faults.map(faultText).join('; ') }
  const { sound, limited } = result.value
  return { print: printOf(sound), peak: peakOf(sound.channels), limitedSeconds: limited / rate }
}

export interface VaryRun {
  readonly count: number
  /** The values of a number. */
  readonly draw: (number: number) => VariationValues
  readonly listen: (values: VariationValues) => Promise<HeardVariation>
  /** So many are heard at once. */
  readonly width: number
  /** Called with how many are kept, and drawn. */
  readonly progress?: (kept: number, drawn: number) => void
}

/** Draws until there are as many as were asked for, or it is of no more use: then there are fewer. */
export const vary = async (run: VaryRun): Promise<VaryReport> => {
  const { count, draw, listen, width, progress } = run
  const own = await listen([])
  const variations: Variation[] = []
  const away = { silent: 0, limited: 0, near: 0 }
  const waiting: { readonly values: VariationValues; readonly heard: Promise<HeardVariation> }[] = []
  let begun = 0,
    drawn = 0
  const judge = (values: VariationValues, heard: HeardVariation): void => {
    const distance = distanceOf(own.print, heard.print)
    if (heard.fault !== undefined || heard.peak < SILENT_PEAK) away.silent += 1
    else if (heard.limitedSeconds > own.limitedSeconds) away.limited += 1
    else if (distance < NEAR_DB || variations.some(({ print }) => distanceOf(print, heard.print) < NEAR_DB))
      away.near += 1
    else variations.push({ values, print: heard.print, distance })
  }
  while (variations.length < count && drawn < MOST_DRAWS * count) {
    for (; waiting.length < width && begun < MOST_DRAWS * count; begun += 1) {
      const values = draw(begun)
      waiting.push({ values, heard: listen(values) })
    }
    const { values, heard } = waiting.shift()!
    judge(values, await heard)
    drawn += 1
    progress?.(variations.length, drawn)
  }
  // What is still being heard is not wanted any more.
  await Promise.allSettled(waiting.map(({ heard }) => heard))
  return { variations, drawn, ...away }
}

/** Why there are fewer variations than were asked for; undefined where there are not. */
export const shortage = (report: VaryReport, count: number): string | undefined => {
  const { variations, drawn, silent, limited, near } = report
  if (variations.length >= count) return undefined
  const reasons = [
    ...(near > 0 ? [`${near} sounded almost as another`] : []),
    ...(silent > 0 ? [`${silent} were silent`] : []),
    ...(limited > 0 ? [`the ear guard worked in ${limited}`] : []),
  ]
  return `${variations.length} of ${count} variations after ${drawn} were drawn (${reasons.join(', ')}); widen the spread or the limits`
}
