/** What is read from an impulse response: how it colours, how late each frequency is, how it decays and thickens. */
import FFT from 'fft.js'
import { decayByOctave, type OctaveDecay } from './decay.ts'
import { echoDensityOf } from './density.ts'

const LARGEST = 65536,
  SMALLEST = 256

export interface Response {
  /** Hertz from one bin to the next; all rows below begin at 0 Hz. */
  readonly binHz: number
  /** Decibels, of the first channel. */
  readonly magnitude: Float64Array
  /** Radians, unwrapped from 0 Hz on. */
  readonly phase: Float64Array
  /** Seconds: how late the envelope of each frequency is. */
  readonly groupDelay: Float64Array
  readonly decays: readonly OctaveDecay[]
  /** One value each 10 ms from the first sample on. */
  readonly density: readonly number[]
}

const unwrapped = (angles: Float64Array): Float64Array => {
  let turns = 0
  return angles.map((angle, n) => {
    const step = n > 0 ? angle - angles[n - 1]! : 0
    if (step > Math.PI) turns -= 1
    if (step < -Math.PI) turns += 1
    return angle + 2 * Math.PI * turns
  })
}

/**
 * Response of an impulse by channel at a rate in hertz. The group delay is that of Smith (the transform of n · h against
 * that of h), so nothing is differentiated; it is 0 where nothing is left of a frequency.
 */
export const responseOf = (channels: readonly Float32Array[], rate: number): Response => {
  const impulse = channels[0] ?? new Float32Array(1)
  let size = SMALLEST
  while (size < LARGEST && size < impulse.length) size *= 2
  const fft = new FFT(size)
  const transform = (weight: (n: number) => number): number[] => {
    const input = Array.from({ length: size }, (_, n) => (impulse[n] ?? 0) * weight(n)),
      output = fft.createComplexArray()
    fft.realTransform(output, input)
    return output
  }
  const plain = transform(() => 1),
    ramped = transform((n) => n)
  const bins = size / 2
  const rows = {
    magnitude: new Float64Array(bins),
    angle: new Float64Array(bins),
    delay: new Float64Array(bins),
  }
  for (let k = 0; k < bins; k += 1) {
    const re = plain[2 * k]!,
      im = plain[2 * k + 1]!,
      power = re * re + im * im
    rows.magnitude[k] = 10 * Math.log10(Math.max(power, 1e-24))
    rows.angle[k] = Math.atan2(im, re)
    rows.delay[k] = power > 1e-18 ? (ramped[2 * k]! * re + ramped[2 * k + 1]! * im) / power / rate : 0
  }
  return {
    binHz: rate / size,
    magnitude: rows.magnitude,
    phase: unwrapped(rows.angle),
    groupDelay: rows.delay,
    // Dearer than all else together, and seldom asked for with it.
    get decays() {
      return decayByOctave(channels, rate)
    },
    get density() {
      return echoDensityOf(channels, rate)
    },
  }
}
