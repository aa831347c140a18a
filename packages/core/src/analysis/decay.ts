/** How a sound dies away, for measuring only. */
import { loudestChannel } from './channels.ts'

const OCTAVES = [125, 250, 500, 1000, 2000, 4000, 8000] as const

export interface OctaveDecay {
  readonly hz: number
  readonly seconds: number
}

/** Band-pass an octave wide: Butterworth high-pass and low-pass of second order at its edges, each twice. */
const octaveOf = (x: Float32Array, hz: number, rate: number): Float64Array => {
  let y: Float64Array = Float64Array.from(x)
  for (const [edge, high] of [
    [hz / Math.SQRT2, true],
    [hz * Math.SQRT2, false],
  ] as const)
    for (let n = 0; n < 2; n += 1) y = secondOrder(y, Math.min(edge, 0.45 * rate), high, rate)
  return y
}

/** Trapezoidal state-variable section with Q of 1/√2. */
const secondOrder = (x: Float64Array, hz: number, high: boolean, rate: number): Float64Array => {
  const g = Math.tan((Math.PI * hz) / rate),
    k = Math.SQRT2,
    a = 1 / (1 + g * (g + k))
  let one = 0,
    two = 0
  return x.map((now) => {
    const v3 = now - two,
      v1 = a * (one + g * v3),
      v2 = two + g * v1
    one = 2 * v1 - one
    two = 2 * v2 - two
    return high ? now - k * v1 - v2 : v2
  })
}

/** Stretches of 10 ms: the sound is at its height until the last that is within 1 dB of the loudest. */
const decayStart = (x: Float64Array, rate: number): number => {
  const size = Math.max(1, Math.round(0.01 * rate))
  const levels: number[] = []
  for (let at = 0; at < x.length; at += size) {
    let sum = 0
    for (let i = at; i < Math.min(x.length, at + size); i += 1) sum += x[i]! * x[i]!
    levels.push(sum)
  }
  const most = levels.reduce((best, level) => Math.max(best, level), 0)
  let last = 0
  levels.forEach((level, index) => {
    if (level > most * 0.794) last = index
  })
  return last * size
}

/** Pairs of levels between which the fall is measured, the widest first that the sound has room for. */
const RANGES = [
  [-5, -35],
  [-5, -25],
  [-3, -15],
] as const

/**
 * Seconds until 60 dB are lost, from the slope of the energy still to come (Schroeder 1965), measured from −5 to −35 dB
 * where there is as much room above the noise at the end (ISO 3382-1: T30), else over less. undefined where it does not
 * decay.
 */
const decayOf = (x: Float64Array, rate: number): number | undefined => {
  const start = decayStart(x, rate)
  const length = x.length - start
  if (length < 0.02 * rate) return undefined
  // Noise of the last tenth, taken off.
  const tail = Math.floor(x.length - 0.1 * length)
  let noise = 0
  for (let i = tail; i < x.length; i += 1) noise += x[i]! ** 2 / (x.length - tail)
  const toCome = new Float64Array(length)
  let sum = 0
  for (let i = length - 1; i >= 0; i -= 1) {
    sum += x[start + i]! ** 2 - noise
    toCome[i] = sum
  }
  const whole = toCome[0]!
  if (!(whole > 1e-20)) return undefined
  const level = (i: number): number => 10 * Math.log10(Math.max(toCome[i]!, 1e-30) / whole)
  for (const [from, to] of RANGES) {
    let a = 0
    while (a < length && level(a) > from) a += 1
    let b = a
    while (b < length && level(b) > to) b += 1
    // The fall must lie before the noise and have some length.
    if (start + b >= tail || b - a < 8) continue
    return (-60 * fall(a, b, level)) / rate
  }
  return undefined
}

/** Frames a decibel, by least squares. */
const fall = (a: number, b: number, level: (i: number) => number): number => {
  const n = b - a,
    middle = a + (n - 1) / 2
  let mean = 0
  for (let i = a; i < b; i += 1) mean += level(i) / n
  let xy = 0,
    xx = 0
  for (let i = a; i < b; i += 1) {
    xy += (i - middle) * (level(i) - mean)
    xx += (i - middle) ** 2
  }
  return xx / xy
}

/** Decay time of the whole sound in seconds. */
export const decaySeconds = (channels: readonly Float32Array[], rate: number): number | undefined =>
  decayOf(Float64Array.from(loudestChannel(channels)), rate)

/** Decay time of every octave from 125 Hz to 8 kHz in which there is enough to measure. */
export const decayByOctave = (channels: readonly Float32Array[], rate: number): OctaveDecay[] => {
  const x = loudestChannel(channels)
  const whole = x.reduce((sum, y) => sum + y * y, 0)
  return OCTAVES.filter((hz) => hz * Math.SQRT2 < rate / 2).flatMap((hz) => {
    const band = octaveOf(x, hz, rate)
    // What leaks in from the neighbours is no octave of its own.
    if (band.reduce((sum, y) => sum + y * y, 0) < whole * 1e-6) return []
    const seconds = decayOf(band, rate)
    return seconds === undefined ? [] : [{ hz, seconds }]
  })
}
