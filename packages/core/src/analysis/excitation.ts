/** Signals a path is measured with, and how its impulse response is found again from what it answers; for measuring only. */
import FFT from 'fft.js'

/**
 * `click`: one sample, the answer is the response. `sweep`: every frequency in turn (Farina 2000), with more energy
 * than a click, so that what bends what is loud is measured at the level it is played at. `step`: from 0 to a height
 * that stays.
 */
export type Excitation = 'click' | 'sweep' | 'step'

const LOWEST_HZ = 10,
  /** Of half the rate: up to there a sweep goes. */
  HIGHEST_SHARE = 0.95,
  FADE_SECONDS = 0.01
/** Seconds a sweep takes; behind it the path rings out. */
export const SWEEP_SECONDS = 1.5

/** Exponential sweep with faded ends, of so many frames. */
export const sweepOf = (rate: number, frames: number): Float32Array => {
  const high = (HIGHEST_SHARE * rate) / 2,
    growth = Math.log(high / LOWEST_HZ),
    seconds = frames / rate,
    fade = FADE_SECONDS * rate
  return Float32Array.from({ length: frames }, (_, i) => {
    const t = i / rate,
      phase = ((2 * Math.PI * LOWEST_HZ * seconds) / growth) * (Math.exp((t * growth) / seconds) - 1)
    return Math.sin(phase) * Math.min(1, i / fade, (frames - 1 - i) / fade)
  })
}

/** What goes into the path: `frames` in all. */
export const excitationOf = (kind: Excitation, rate: number, frames: number): Float32Array => {
  const x = new Float32Array(frames)
  if (kind === 'click') x[0] = 1
  else if (kind === 'step') x.fill(1)
  else x.set(sweepOf(rate, Math.min(frames, Math.round(SWEEP_SECONDS * rate))))
  return x
}

/** Below this share of the loudest bin a frequency was not excited. */
const REGULAR = 1e-6

/** The response of a linear path from what went in and what came out, `frames` of it. */
const deconvolved = (input: Float32Array, output: Float32Array, frames: number): Float32Array => {
  let size = 2
  while (size < input.length + output.length) size *= 2
  const fft = new FFT(size)
  const transform = (of: Float32Array): number[] => {
    const padded = new Array<number>(size).fill(0),
      spectrum = fft.createComplexArray()
    of.forEach((x, i) => {
      padded[i] = x
    })
    fft.realTransform(spectrum, padded)
    fft.completeSpectrum(spectrum)
    return spectrum
  }
  const x = transform(input),
    y = transform(output)
  let most = 0
  for (let k = 0; k < 2 * size; k += 2) most = Math.max(most, x[k]! ** 2 + x[k + 1]! ** 2)
  for (let k = 0; k < 2 * size; k += 2) {
    const [a, b, c, d] = [y[k]!, y[k + 1]!, x[k]!, x[k + 1]!],
      power = c * c + d * d + REGULAR * most
    y[k] = (a * c + b * d) / power
    y[k + 1] = (b * c - a * d) / power
  }
  const time = fft.createComplexArray()
  fft.inverseTransform(time, y)
  return Float32Array.from({ length: frames }, (_, i) => time[2 * i]!)
}

/** Impulse response from what a path answered; what came before the begin (its distortion, of a sweep) is left out. */
export const impulseFrom = (kind: Excitation, input: Float32Array, output: Float32Array): Float32Array =>
  kind === 'click'
    ? output
    : kind === 'step'
      ? output.map((x, i) => x - (i > 0 ? output[i - 1]! : 0))
      : deconvolved(input, output, output.length)
