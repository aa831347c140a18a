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

/** The filter at t samples of the lower rate from its middle. */
const kernelAt = (t: number): number => {
  const u = t / REACH
  if (u <= -1 || u >= 1) return 0
  const window = besselI0(BETA * Math.sqrt(1 - u * u)) / besselI0(BETA)
  const x = 2 * CUTOFF * t
  return window * (t === 0 ? 2 * CUTOFF : exactSine(x / 2) / (Math.PI * t))
}

/**
 * A sound at another rate, of round(frames × rate / its rate) frames. Rates in hertz, whole numbers above 0; throws
 * RangeError otherwise.
 */
export const resample = (sound: Sound, rate: number): Sound => {
  if (!Number.isInteger(rate) || rate < 1)
    throw new RangeError(`A rate is a whole number of hertz, not ${rate}`)
  if (sound.rate === rate) return sound
  const divisor = greatestDivisor(sound.rate, rate),
    up = rate / divisor,
    down = sound.rate / divisor
  // In samples of the source the kernel is stretched where the source has the higher rate.
  const stretch = Math.max(1, sound.rate / rate),
    reach = Math.ceil(REACH * stretch)
  const weights = new Map<number, Float64Array>()
  /** Weights of the samples from `reach − 1` before to `reach` after a place `phase / up` behind a sample. */
  const weightsFor = (phase: number): Float64Array => {
    const known = weights.get(phase)
    if (known) return known
    const made = Float64Array.from(
      { length: 2 * reach },
      (_, i) => kernelAt((i - reach + 1 - phase / up) / stretch) / stretch,
    )
    // Constants stay what they are.
    const sum = made.reduce((total, weight) => total + weight, 0)
    for (let i = 0; i < made.length; i += 1) made[i]! /= sum
    weights.set(phase, made)
    return made
  }
  const frames = Math.round(((sound.channels[0]?.length ?? 0) * rate) / sound.rate)
  const channels = sound.channels.map((source) => {
    const out = new Float32Array(frames)
    for (let n = 0; n < frames; n += 1) {
      const place = n * down,
        first = Math.floor(place / up) - reach + 1,
        row = weightsFor(place % up)
      let sum = 0
      for (let i = Math.max(0, -first); i < row.length && first + i < source.length; i += 1)
        sum += row[i]! * source[first + i]!
      out[n] = sum
    }
    return out
  })
  return { rate, channels }
}
