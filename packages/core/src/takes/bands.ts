/** Levels of a sound's bands around a place: exact arithmetic, the same on every machine. */
import { exactLog, exactSine } from '../units/exact.ts'
import { exactTransform } from '../units/fourier.ts'

/** Frames that are looked at. */
export const BAND_FRAMES = 4096

/** Hann's. */
const WINDOW = Float64Array.from(
  { length: BAND_FRAMES },
  (_, n) => exactSine((n + 0.5) / (2 * BAND_FRAMES)) ** 2,
)
/** Of a transform of a sine at full scale: half of it at either sign, halved by the window. */
const FULL = (BAND_FRAMES / 4) ** 2

/**
 * Powers of bands of the frames from `at` on, the first two channels together: 1 for a sine at full scale in both. Band n
 * goes from bin `edges[n]` to the one before `edges[n + 1]`, and holds one bin at least.
 */
export const bandPowers = (
  channels: readonly Float32Array[],
  at: number,
  edges: readonly number[],
): Float64Array => {
  const re = new Float64Array(BAND_FRAMES),
    im = new Float64Array(BAND_FRAMES)
  const [left, right = left] = channels
  for (let n = 0; n < BAND_FRAMES; n += 1) {
    re[n] = (left?.[at + n] ?? 0) * WINDOW[n]!
    im[n] = (right?.[at + n] ?? 0) * WINDOW[n]!
  }
  exactTransform(re, im, 1)
  const powers = new Float64Array(edges.length - 1)
  for (let band = 0; band + 1 < edges.length; band += 1) {
    const first = edges[band]!
    let sum = 0
    // Two channels in one transform: both signs of a frequency hold half of each.
    for (let bin = first; bin < Math.max(first + 1, edges[band + 1]!); bin += 1) {
      const other = BAND_FRAMES - bin
      sum += re[bin]! ** 2 + im[bin]! ** 2 + re[other]! ** 2 + im[other]! ** 2
    }
    powers[band] = sum / (4 * FULL)
  }
  return powers
}

export const decibels = (power: number): number => (10 / Math.LN10) * exactLog(Math.max(power, 1e-30))
