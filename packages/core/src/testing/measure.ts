/** Independent measuring for tests: 64-bit, plain mathematics, nothing of the engine. */
import FFT from 'fft.js'

/** Seven-term Blackman-Harris (Albrecht 2001): side lobes below −180 dB. */
const WINDOW = [
  0.27105140069342, -0.43329793923448, 0.21812299954311, -0.06592544638803, 0.01081174209837,
  -0.00077658482522, 0.00001388721735,
]

/** Amplitude spectrum (a full-scale sine reads 1) of `size` samples from `start`. */
export const amplitudes = (x: ArrayLike<number>, size = 65536, start = 0): Float64Array => {
  const fft = new FFT(size)
  const windowed = new Array<number>(size)
  let sum = 0
  for (let i = 0; i < size; i += 1) {
    const w = WINDOW.reduce((total, a, k) => total + a * Math.cos((2 * Math.PI * k * i) / size), 0)
    windowed[i] = (x[start + i] ?? 0) * w
    sum += w
  }
  const out = fft.createComplexArray() as number[]
  fft.realTransform(out, windowed)
  return Float64Array.from(
    { length: size / 2 },
    (_, i) => (2 * Math.hypot(out[2 * i]!, out[2 * i + 1]!)) / sum,
  )
}

/**
 * Loudest component that is no harmonic of `hz`, in dB relative to the fundamental (or to the loudest harmonic, for
 * waves that have hardly any). Counts from 15 Hz to `upTo`; `spread` hertz around a harmonic belong to it.
 */
export const worstAlias = (
  x: ArrayLike<number>,
  hz: number,
  {
    rate = 48000,
    upTo = rate < 48000 ? 16000 : 18000,
    start = 4096,
    size = 65536,
    spread = 0,
    loudest = false,
  }: {
    rate?: number
    upTo?: number
    start?: number
    size?: number
    spread?: number
    loudest?: boolean
  } = {},
): number => {
  const bin = rate / size
  const spectrum = amplitudes(x, size, start)
  const around = (f: number): number =>
    Math.max(...spectrum.slice(Math.round(f / bin) - 4, Math.round(f / bin) + 5))
  const reference = loudest ? Math.max(...spectrum.slice(20)) : around(hz)
  let worst = -300
  for (let i = 20; i * bin < upTo; i += 1) {
    const harmonic = Math.round((i * bin) / hz) * hz
    if (Math.abs(i * bin - harmonic) > 8 * bin + spread) worst = Math.max(worst, db(spectrum[i]! / reference))
  }
  return worst
}

export const db = (x: number): number => 20 * Math.log10(Math.max(Math.abs(x), 1e-30))

/** Frequency of a tone near `guess`, from the phase advance between two windows: exact to 1e-7 for steady tones. */
export const frequencyOf = (
  x: ArrayLike<number>,
  guess: number,
  rate = 48000,
  start = 0,
  length = x.length - start,
): number => {
  const size = Math.floor(length * 0.45),
    gap = Math.floor(length * 0.5)
  const phase = (at: number, hz: number): number => {
    let re = 0,
      im = 0
    for (let i = 0; i < size; i += 1) {
      const w = 0.42 - 0.5 * Math.cos((2 * Math.PI * i) / size) + 0.08 * Math.cos((4 * Math.PI * i) / size)
      re += x[start + at + i]! * w * Math.cos((2 * Math.PI * hz * i) / rate)
      im -= x[start + at + i]! * w * Math.sin((2 * Math.PI * hz * i) / rate)
    }
    return Math.atan2(im, re)
  }
  const turns = (phase(gap, guess) - phase(0, guess)) / (2 * Math.PI) - (guess * gap) / rate
  return guess + ((turns - Math.round(turns)) * rate) / gap
}

/** Frequency of a tone between two seconds, by its rising zero crossings: knows nothing beforehand. NaN of silence. */
export const hzBetween = (x: ArrayLike<number>, from: number, to: number, rate = 48000): number => {
  const at: number[] = []
  for (let i = Math.round(from * rate); i < Math.round(to * rate) - 1; i += 1)
    if (x[i]! < 0 && x[i + 1]! >= 0) at.push(i + x[i]! / (x[i]! - x[i + 1]!))
  return at.length < 2 ? NaN : (rate * (at.length - 1)) / (at.at(-1)! - at[0]!)
}

export const centsBetween = (a: number, b: number): number => 1200 * Math.log2(a / b)

/** Complex response of an impulse response at a frequency; the magnitude. */
export const magnitudeAt = (impulse: ArrayLike<number>, hz: number, rate = 48000): number => {
  let re = 0,
    im = 0
  for (let i = 0; i < impulse.length; i += 1) {
    re += impulse[i]! * Math.cos((2 * Math.PI * hz * i) / rate)
    im -= impulse[i]! * Math.sin((2 * Math.PI * hz * i) / rate)
  }
  return Math.hypot(re, im)
}

export const rms = (x: ArrayLike<number>, start = 0, end = x.length): number => {
  let sum = 0
  for (let i = start; i < end; i += 1) sum += x[i]! ** 2
  return Math.sqrt(sum / (end - start))
}

export const largest = (x: ArrayLike<number>, start = 0, end = x.length): number => {
  let most = 0
  for (let i = start; i < end; i += 1) most = Math.max(most, Math.abs(x[i]!))
  return most
}

/** Largest step between neighbouring samples. */
export const largestStep = (x: ArrayLike<number>, start = 1, end = x.length): number => {
  let most = 0
  for (let i = Math.max(1, start); i < end; i += 1) most = Math.max(most, Math.abs(x[i]! - x[i - 1]!))
  return most
}
