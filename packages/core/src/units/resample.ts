/**
 * Resampling by a Kaiser-windowed sinc (Smith & Gossett 1984; window after Kaiser 1974): flat to 0.45 of the lower rate,
 * 100 dB down from half of it. Only + − × ÷ and √, so the result is the same on every machine.
 */
import { exactSine } from './exact.ts'

interface Sound {
  readonly rate: number
  readonly channels: readonly Float32Array[]
}

/** β for −100 dB: 0.1102 (A − 8.7). */
const BETA = 10.06
/** Half length in samples of the lower rate: A − 7.95 over 2.285 · 2π · 0.05, halved. */
const REACH = 64
/** Middle of the transition, as a share of the lower rate. */
const CUTOFF = 0.475

/** Modified Bessel function of the first kind, order 0: what Kaiser windows are made of. */
export const besselI0 = (x: number): number => {
  let sum = 1,
    term = 1
  for (let k = 1; k < 60 && term > sum * 1e-17; k += 1) {
    term *= (x * x) / (4 * k * k)
    sum += term
  }
  return sum
}

const greatestDivisor = (a: number, b: number): number => (b === 0 ? a : greatestDivisor(b, a % b))

const WHOLE = besselI0(BETA)

/** The filter at t samples of the lower rate from its middle. */
const kernelAt = (t: number): number => {
  const u = t / REACH
  if (u <= -1 || u >= 1) return 0
  const window = besselI0(BETA * Math.sqrt(1 - u * u)) / WHOLE
  const x = 2 * CUTOFF * t
  return window * (t === 0 ? 2 * CUTOFF : exactSine(x / 2) / (Math.PI * t))
}

/** Sum of a source's samples from `first` on, each by its weight; silence beyond its ends. */
const weighted = (weights: Float64Array, source: Float32Array, first: number): number => {
  const from = Math.max(0, -first) | 0,
    to = Math.min(weights.length, source.length - first) | 0
  let sum = 0
  for (let i = from, at = (first + from) | 0; i < to; i += 1, at += 1) sum += weights[i]! * source[at]!
  return sum
}

/** `up` frames for every `down` of the source, whole numbers without a common divisor; any stretch of them. */
export class Resampler {
  private readonly stretch: number
  /** Samples of the source on either side of a place that count. */
  private readonly reach: number
  private readonly weights = new Map<number, Float64Array>()

  constructor(
    private readonly up: number,
    private readonly down: number,
  ) {
    // In samples of the source the kernel is stretched where the source has the higher rate.
    this.stretch = Math.max(1, down / up)
    this.reach = Math.ceil(REACH * this.stretch)
  }

  /** How many frames so many of the source become. */
  frames(count: number): number {
    return Math.round((count * this.up) / this.down)
  }

  /** Samples of the source that frames are made of: the first of them, and the one behind the last. */
  needs(from: number, to: number): readonly [first: number, end: number] {
    const at = (n: number): number => Math.floor((n * this.down) / this.up)
    return [at(from) - this.reach + 1, at(Math.max(from, to - 1)) + this.reach + 1]
  }

  /** Weights of the samples from `reach − 1` before to `reach` after a place `phase / up` behind a sample. */
  private weightsFor(phase: number): Float64Array {
    const known = this.weights.get(phase)
    if (known) return known
    const { reach, stretch, up } = this
    const made = Float64Array.from(
      { length: 2 * reach },
      (_, i) => kernelAt((i - reach + 1 - phase / up) / stretch) / stretch,
    )
    // Constants stay what they are.
    const sum = made.reduce((total, weight) => total + weight, 0)
    for (let i = 0; i < made.length; i += 1) made[i]! /= sum
    this.weights.set(phase, made)
    return made
  }

  /** Frames from `from` to `to` of a source of which `source` is known from sample `start` on; silence beyond that. */
  read(source: Float32Array, start: number, from: number, to: number): Float32Array {
    const out = new Float32Array(to - from)
    for (let n = from; n < to; n += 1) {
      const place = n * this.down,
        first = Math.floor(place / this.up) - this.reach + 1 - start
      out[n - from] = weighted(this.weightsFor(place % this.up), source, first)
    }
    return out
  }
}

/**
 * A sound at another rate, of round(frames × rate / its rate) frames. Rates in hertz, whole numbers above 0; throws
 * RangeError otherwise.
 */
export const resample = (sound: Sound, rate: number): Sound => {
  if (!Number.isInteger(rate) || rate < 1)
    throw new RangeError(`A rate is a whole number of hertz, not ${rate}`)
  if (sound.rate === rate) return sound
  const divisor = greatestDivisor(sound.rate, rate)
  const resampler = new Resampler(rate / divisor, sound.rate / divisor)
  const frames = resampler.frames(sound.channels[0]?.length ?? 0)
  return { rate, channels: sound.channels.map((source) => resampler.read(source, 0, 0, frames)) }
}
