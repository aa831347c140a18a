/** The pitch of a sound, for measuring only. */
import FFT from 'fft.js'
import { loudestChannel } from './channels.ts'

const LOWEST_HZ = 20
/** A period must repeat this well to count as a pitch. */
const CLEAR = 0.85
/** Of all repeats, the first this near to the best one is the period (McLeod & Wyvill 2005). */
const FIRST_OF = 0.93
const SIZE = 8192

/** Start of the loudest stretch of `size` samples. */
const loudestAt = (x: Float32Array, size: number): number => {
  let best = 0,
    most = -1,
    sum = 0
  for (let i = 0; i < x.length; i += 1) {
    sum += x[i]! * x[i]!
    if (i >= size) sum -= x[i - size]! * x[i - size]!
    if (i >= size - 1 && sum > most * 1.0001) {
      most = sum
      best = i - size + 1
    }
  }
  return best
}

/** Normalised square difference of a stretch with itself, by lag: 1 where it repeats. */
const repeatsOf = (x: Float32Array, at: number, size: number): Float64Array => {
  const fft = new FFT(2 * size)
  const input = fft.createComplexArray().fill(0),
    spectrum = fft.createComplexArray(),
    correlation = fft.createComplexArray()
  let mean = 0
  for (let i = 0; i < size; i += 1) mean += (x[at + i] ?? 0) / size
  for (let i = 0; i < size; i += 1) input[2 * i] = (x[at + i] ?? 0) - mean
  fft.transform(spectrum, input)
  for (let k = 0; k < 4 * size; k += 2) {
    spectrum[k] = spectrum[k]! ** 2 + spectrum[k + 1]! ** 2
    spectrum[k + 1] = 0
  }
  fft.inverseTransform(correlation, spectrum)
  const result = new Float64Array(size >> 1)
  let energy = 0
  for (let i = 0; i < size; i += 1) energy += 2 * input[2 * i]! ** 2
  for (let lag = 0; lag < result.length; lag += 1) {
    result[lag] = energy > 1e-12 ? (2 * correlation[2 * lag]!) / energy : 0
    energy -= input[2 * lag]! ** 2 + input[2 * (size - 1 - lag)]! ** 2
  }
  return result
}

/** The first lag, between samples, at which a sound repeats; undefined where it does not. */
const periodOf = (repeats: Float64Array): number | undefined => {
  const tops: number[] = []
  let inside = false,
    top = 0
  for (let lag = 1; lag < repeats.length - 1; lag += 1) {
    if (repeats[lag]! < 0) {
      if (inside && top > 0) tops.push(top)
      inside = true
      top = 0
    } else if (inside && repeats[lag]! > (top ? repeats[top]! : 0)) top = lag
  }
  if (inside && top > 0) tops.push(top)
  const best = tops.reduce((most, lag) => Math.max(most, repeats[lag]!), 0)
  if (best < CLEAR) return undefined
  const lag = tops.find((place) => repeats[place]! >= FIRST_OF * best)!
  const [a, b, c] = [repeats[lag - 1]!, repeats[lag]!, repeats[lag + 1] ?? 0]
  return lag + (a - 2 * b + c === 0 ? 0 : (0.5 * (a - c)) / (a - 2 * b + c))
}

/** Phase (radians, of a cosine at `at`) and size of a partial in a stretch under Hann's window. */
export const partialAt = (
  x: Float32Array,
  at: number,
  size: number,
  hz: number,
  rate: number,
): { readonly phase: number; readonly size: number } => {
  let re = 0,
    im = 0
  for (let i = 0; i < size; i += 1) {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / size),
      angle = (2 * Math.PI * hz * i) / rate,
      y = (x[at + i] ?? 0) * w
    re += y * Math.cos(angle)
    im -= y * Math.sin(angle)
  }
  return { phase: Math.atan2(im, re), size: Math.hypot(re, im) }
}

/** Frequency of the partial near a guess, from the advance of its phase between two windowed stretches. */
const refined = (x: Float32Array, at: number, length: number, guess: number, rate: number): number => {
  const size = Math.floor(length / 2)
  // Gaps that double, so that no turn is lost on the way to the longest one.
  let hz = guess
  for (let step = Math.max(1, Math.floor(rate / guess / 2)); step <= length - size; step *= 2) {
    const advance =
      partialAt(x, at + step, size, guess, rate).phase - partialAt(x, at, size, guess, rate).phase
    const turns = advance / (2 * Math.PI) - (hz * step) / rate
    hz += ((turns - Math.round(turns)) * rate) / step
  }
  return hz
}

/**
 * Fundamental of the loudest stretch of a sound in hertz, 20 Hz and up; undefined where nothing repeats. Within 0.1 cent
 * for steady tones.
 */
export const pitchOf = (channels: readonly Float32Array[], rate: number): number | undefined => {
  const x = loudestChannel(channels)
  if (x.length < 256) return undefined
  let size = SIZE
  while (size < (2.5 * rate) / LOWEST_HZ) size *= 2
  while (size > 256 && size > x.length) size /= 2
  const at = loudestAt(x, size)
  const period = periodOf(repeatsOf(x, at, size))
  if (period === undefined) return undefined
  const coarse = rate / period
  // The strongest of the first partials tells best; its number is known from the period.
  const length = Math.min(x.length - at, 2 * size)
  let strongest = 1,
    most = 0
  for (let n = 1; n <= 6 && n * coarse < rate / 2; n += 1) {
    const partial = partialAt(x, at, Math.floor(length / 2), n * coarse, rate).size
    if (partial > most) {
      strongest = n
      most = partial
    }
  }
  const exact = refined(x, at, length, strongest * coarse, rate) / strongest
  return Math.abs(1200 * Math.log2(exact / coarse)) < 30 ? exact : coarse
}
