/** Hits of a recording: where they are, what they measure, which is the most usual of them, and how they are cut apart. */
import { LoudnessMeter } from '../analysis/loudness.ts'
import { peakOf } from '../analysis/truepeak.ts'
import { spectrumOf } from '../analysis/spectrum.ts'
import { median } from '../units/median.ts'
import { onsetsOf } from './onsets.ts'
import type { ChainStep } from './step.ts'
import type { Tape } from './tape.ts'

export interface Hit {
  /** Frame at which it begins, and the one behind its end: the next hit, or where it is softer than can be heard. */
  readonly at: number
  readonly end: number
  /** dB of full scale. */
  readonly peakDb: number
  /** Loudest 0.4 s, LUFS; −Infinity where it is shorter than that and nothing follows. */
  readonly lufs: number
  /** From a tenth to nine tenths of its peak. */
  readonly attackSeconds: number
  /** Middle of its power over frequency. */
  readonly centroidHz: number
  readonly seconds: number
  /** Samples at full scale. */
  readonly clips: boolean
}

/** A hit ends where it stays this far below its peak. */
const END_DB = -50
const LONGEST_SECONDS = 20
const FULL_SCALE = 0.999
const WINDOW_SECONDS = 0.01
/** A hit is over so long before the next one, whose beginning may be a little before where it was found. */
const APART_SECONDS = 0.002
const decibels = (x: number): number => 20 * Math.log10(Math.max(x, 1e-9))

/** Loudest sample of every hundredth of a second. */
const levelsOf = (channels: readonly Float32Array[], window: number): number[] =>
  Array.from({ length: Math.ceil((channels[0]?.length ?? 0) / window) }, (_, n) =>
    peakOf(channels.map((channel) => channel.subarray(n * window, (n + 1) * window))),
  )

const attackOf = (channels: readonly Float32Array[], peak: number, rate: number): number => {
  const reached = (share: number): number =>
    Math.min(
      ...channels
        .map((channel) => channel.findIndex((x) => Math.abs(x) >= share * peak))
        .filter((n) => n >= 0),
    )
  return Math.max(0, (reached(0.9) - reached(0.1)) / rate)
}

const centroidOf = (channels: readonly Float32Array[], rate: number): number => {
  const { amplitudes, binHz } = spectrumOf(channels, rate)
  let sum = 0,
    weighted = 0
  amplitudes.forEach((amplitude, bin) => {
    sum += amplitude * amplitude
    weighted += amplitude * amplitude * bin * binHz
  })
  return sum > 0 ? weighted / sum : 0
}

const measured = async (tape: Tape, at: number, until: number): Promise<Hit> => {
  const { rate } = tape,
    window = Math.round(WINDOW_SECONDS * rate)
  const whole = await tape.read(at, until),
    levels = levelsOf(whole, window),
    peak = Math.max(0, ...levels)
  const least = peak * 10 ** (END_DB / 20)
  const lastLoud = levels.findLastIndex((level) => level > least)
  const end = Math.min(until, at + (lastLoud + 1) * window)
  const channels = whole.map((channel) => channel.subarray(0, end - at))
  const meter = new LoudnessMeter(rate, channels.length)
  meter.add(channels)
  // What is shorter than a measured stretch is followed by silence.
  meter.add(channels.map(() => new Float32Array(Math.round(0.4 * rate))))
  return {
    at,
    end,
    peakDb: decibels(peak),
    lufs: meter.loudness.momentary,
    attackSeconds: attackOf(channels, peak, rate),
    centroidHz: centroidOf(channels, rate),
    seconds: (end - at) / rate,
    clips: peak >= FULL_SCALE,
  }
}

/** Every hit of a recording in its order. */
export const hitsOf = async (tape: Tape): Promise<readonly Hit[]> => {
  const onsets = await onsetsOf(tape)
  const hits: Hit[] = []
  for (const [n, at] of onsets.entries()) {
    const next = onsets[n + 1],
      before = next === undefined ? tape.frames : next - Math.round(APART_SECONDS * tape.rate),
      until = Math.max(at + 1, Math.min(before, at + LONGEST_SECONDS * tape.rate))
    hits.push(await measured(tape, at, until))
  }
  return hits
}

/** What a difference of one of these counts as one: 3 LU, an octave of attack time, half an octave of centroid, an octave of length. */
const TRAITS: readonly (readonly [of: (hit: Hit) => number, weight: number])[] = [
  [({ lufs }) => Math.max(lufs, -70) / 3, 1],
  [({ attackSeconds }) => Math.log2(Math.max(attackSeconds, 1e-4)), 1],
  [({ centroidHz }) => 2 * Math.log2(Math.max(centroidHz, 20)), 1],
  [({ seconds }) => Math.log2(Math.max(seconds, 1e-3)), 1],
]
/** What is at full scale comes after everything that is not. */
const CLIPPED = 1000

/**
 * The hits from the most usual to the oddest: by how far loudness, attack, centroid and length are from their medians over
 * all of them, those that clip last; equal ones as they come.
 */
export const ranked = (hits: readonly Hit[]): readonly Hit[] => {
  const middles = TRAITS.map(([of]) => median(hits.map(of)))
  const distance = (hit: Hit): number =>
    TRAITS.reduce((sum, [of, weight], n) => sum + weight * Math.abs(of(hit) - middles[n]!), 0) +
    (hit.clips ? CLIPPED : 0)
  return hits
    .map((hit) => ({ hit, far: distance(hit) }))
    .sort((a, b) => a.far - b.far || a.hit.at - b.hit.at)
    .map(({ hit }) => hit)
}

export interface ChopOptions {
  /** Kept before a hit, where there is room. */
  readonly leadSeconds?: number
  /** Fade at either end. */
  readonly fadeSeconds?: number
}

/** Chains that cut a recording's hits apart: none reaches into another, each is faded. */
export const chopped = (
  hits: readonly Hit[],
  { rate, frames }: { readonly rate: number; readonly frames: number },
  { leadSeconds = 0.001, fadeSeconds = 0.002 }: ChopOptions = {},
): readonly (readonly ChainStep[])[] =>
  hits.map(({ at, end }, n) => {
    const lead = Math.round(leadSeconds * rate),
      from = Math.max(hits[n - 1]?.end ?? 0, at - lead, 0),
      next = hits[n + 1],
      to = Math.min(frames, next ? Math.max(at + 1, Math.min(end, next.at - lead)) : end),
      fade = Math.min(Math.round(fadeSeconds * rate), Math.floor((to - from) / 2))
    return [
      { id: 'cut', kind: 'cut', on: true, from, to },
      { id: 'fade', kind: 'fade', on: true, in: Math.min(at - from, fade), out: fade },
    ]
  })
