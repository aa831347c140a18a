/**
 * The crossfade of a loop: before its end, what comes before its start is faded in, so that the end goes over into the
 * start. Both are weighted so that the level stays, whatever they have in common: with weights a and b and a correlation
 * ρ, a² + b² + 2abρ = 1.
 */
import { exactCosine, exactSine } from '../units/exact.ts'
import { decibels } from './bands.ts'
import { energiesOf } from './energies.ts'
import { loopMatches, type LoopMatch } from './loops.ts'

export interface Loop {
  /** Frames it goes round in, the end not included. */
  readonly start: number
  readonly end: number
  /** Frames before the end that are faded. */
  readonly crossfade: number
}

export interface LoopQuality {
  /** By how much the level falls in the crossfade below what was there, at the most, in dB. */
  readonly dipDb: number
  /** How much the level moves at the loop's own rate, against its mean, in dB. */
  readonly lineDb: number
}

/** Lengths that are tried. */
const LENGTHS_SECONDS = [0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.4]
/** A level is that of so long a stretch. */
const LEVEL_SECONDS = 0.02
/** A crossfade is at most this share of its loop. */
const MOST_SHARE = 0.5
/** Nothing is gained below these. */
const UNHEARD_DIP_DB = 0.05,
  UNHEARD_LINE_DB = -80
/** A decibel of dip counts as so many of the line. */
const DIP_WEIGHT = 20
const SILENCE = 1e-30

/** How alike two stretches of the same length are, 0 for what has nothing in common … 1 for the same. */
const correlationOf = (
  channels: readonly Float32Array[],
  one: number,
  other: number,
  length: number,
): number => {
  let both = 0,
    first = 0,
    second = 0
  for (const channel of channels)
    for (let n = 0; n < length; n += 1) {
      const x = channel[one + n]!,
        y = channel[other + n]!
      both += x * y
      first += x * x
      second += y * y
    }
  const scale = Math.sqrt(first * second)
  return scale > 0 ? Math.min(1, Math.max(0, both / scale)) : 1
}

/** The channels with a loop's crossfade worked in; everything else as it was. */
export const crossfaded = (
  channels: readonly Float32Array[],
  { start, end, crossfade }: Loop,
): Float32Array[] => {
  const alike = correlationOf(channels, end - crossfade, start - crossfade, crossfade)
  return channels.map((channel) => {
    const out = channel.slice()
    for (let n = 0; n < crossfade; n += 1) {
      // Slow at both ends, so that nothing bends suddenly.
      const turn = exactSine((n + 1) / (4 * (crossfade + 1))),
        share = turn * turn,
        left = 1 - share,
        level = Math.sqrt(left * left + share * share + 2 * left * share * alike)
      out[end - crossfade + n] =
        (left * channel[end - crossfade + n]! + share * channel[start - crossfade + n]!) / level
    }
    return out
  })
}

/** Sum of squares of stretches of a window's length, one each hop, which may end between two frames. */
const levelsOf = (channels: readonly Float32Array[], window: number, hop: number): Float64Array => {
  const sums = energiesOf(channels),
    length = sums.length - 1
  return Float64Array.from({ length: Math.max(0, Math.floor((length - window) / hop) + 1) }, (_, n) => {
    const at = Math.floor(n * hop)
    return sums[at + window]! - sums[at]!
  })
}

/** Some frames, and others behind them. */
const joined = (
  channels: readonly Float32Array[],
  ...parts: readonly (readonly [from: number, to: number])[]
): Float32Array[] =>
  channels.map((channel) => {
    const out = new Float32Array(parts.reduce((sum, [from, to]) => sum + to - from, 0))
    let at = 0
    for (const [from, to] of parts) {
      out.set(channel.subarray(from, to), at)
      at += to - from
    }
    return out
  })

const windowOf = (rate: number, { start, end }: Pick<Loop, 'start' | 'end'>): number =>
  Math.min(Math.round(LEVEL_SECONDS * rate), start, end - start)

/** What a loop and its crossfade need, and where they lie in that. */
const nearLoop = (
  channels: readonly Float32Array[],
  { start, end, crossfade }: Loop,
): { readonly channels: Float32Array[]; readonly loop: Loop } => {
  const first = start - crossfade
  return {
    channels: channels.map((channel) => channel.subarray(first, end)),
    loop: { start: crossfade, end: end - first, crossfade },
  }
}

/** How far the level in the seam falls below the lesser of what meets there. */
const dipOf = (
  channels: readonly Float32Array[],
  made: readonly Float32Array[],
  rate: number,
  loop: Loop,
): number => {
  const { start, end, crossfade } = loop,
    window = windowOf(rate, loop),
    hop = Math.max(1, window >> 2),
    from = crossfade + window
  // What was made begins where its crossfade reaches.
  const first = start - crossfade
  const seam = joined(made, [end - from - first, end - first], [start - first, start - first + window]),
    ending = joined(channels, [end - from, end + window]),
    starting = joined(channels, [start - from, start + window])
  const [out, one, other] = [seam, ending, starting].map((part) => levelsOf(part, window, hop)) as [
    Float64Array,
    Float64Array,
    Float64Array,
  ]
  let dip = 0
  out.forEach((level, n) => {
    const least = Math.min(one[n] ?? level, other[n] ?? level)
    dip = Math.max(dip, decibels(least) - decibels(level))
  })
  return dip
}

/** What is heard of a loop's seam when it goes round. */
export const loopQuality = (channels: readonly Float32Array[], rate: number, loop: Loop): LoopQuality => {
  const near = nearLoop(channels, loop),
    made = crossfaded(near.channels, near.loop)
  const length = loop.end - loop.start,
    window = windowOf(rate, loop),
    hops = Math.ceil((4 * length) / window)
  const round = joined(made, [near.loop.start, near.loop.end], [near.loop.start, near.loop.start + window])
  const levels = levelsOf(round, window, length / hops).subarray(0, hops)
  let re = 0,
    im = 0,
    mean = 0
  levels.forEach((power, n) => {
    const level = Math.sqrt(power),
      turn = n / hops
    mean += level / hops
    re += (2 / hops) * level * exactCosine(turn)
    im += (2 / hops) * level * exactSine(turn)
  })
  return {
    dipDb: dipOf(channels, made, rate, loop),
    lineDb: decibels((re * re + im * im) / Math.max(SILENCE, mean * mean)),
  }
}

/** The loop of a match with the crossfade of which least is heard; shorter ones where that is the same. */
export const withCrossfade = (
  channels: readonly Float32Array[],
  rate: number,
  { start, end }: Pick<LoopMatch, 'start' | 'end'>,
): Loop & LoopQuality => {
  const most = Math.max(
    0,
    Math.min(start - windowOf(rate, { start, end }), Math.floor(MOST_SHARE * (end - start))),
  )
  const lengths = LENGTHS_SECONDS.map((seconds) => Math.round(seconds * rate)).filter(
    (frames) => frames <= most,
  )
  let best: (Loop & LoopQuality) | undefined,
    lowest = Infinity
  for (const crossfade of lengths.length > 0 ? lengths : [most]) {
    const loop = { start, end, crossfade },
      quality = loopQuality(channels, rate, loop),
      score = DIP_WEIGHT * quality.dipDb + quality.lineDb
    // Less than half a decibel is no reason for a longer one.
    if (score >= lowest - 0.5) continue
    lowest = score
    best = { ...loop, ...quality }
    if (quality.dipDb < UNHEARD_DIP_DB && quality.lineDb < UNHEARD_LINE_DB) break
  }
  return best!
}

/** Nothing that matches less is gone round in. */
const LEAST_MATCH_DB = -30
/** Nearly as loud as it becomes: this share of its highest power; what beats or swells comes to that again and again. */
const ARRIVED = 0.7
/** It is past its attack so long after that. */
const SETTLED_SECONDS = 0.02

/** Frame after which a sound is past its attack: soon after it is nearly as loud as it becomes up to `to`. */
export const attackEnd = (channels: readonly Float32Array[], rate: number, to: number): number => {
  const window = Math.max(1, Math.round(LEVEL_SECONDS * rate))
  const levels = levelsOf(
    channels.map((channel) => channel.subarray(0, to)),
    window,
    window,
  )
  const loudest = levels.reduce((most, level) => Math.max(most, level), 0),
    first = levels.findIndex((level) => level >= ARRIVED * loudest)
  return (Math.max(0, first) + 1) * window + Math.round(SETTLED_SECONDS * rate)
}

/** The best loop of a sound whose note ends at a frame; undefined where nothing matches within −30 dB. */
export const loopOf = (
  channels: readonly Float32Array[],
  rate: number,
  to: number,
): (Loop & LoopQuality & LoopMatch) | undefined => {
  const matches = loopMatches(channels, rate, { from: attackEnd(channels, rate, to), to })
  const match = matches.find(({ matchDb }) => matchDb <= LEAST_MATCH_DB)
  return match && { ...match, ...withCrossfade(channels, rate, match) }
}
