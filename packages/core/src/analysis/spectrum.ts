/** Spectra for measuring: none of this reaches audio. */
import FFT from 'fft.js'

/** Four-term Blackman–Harris (Harris 1978): side lobes below −92 dB, peaks easy to place. */
const WINDOW = [0.35875, -0.48829, 0.14128, -0.01168] as const
const LARGEST = 65536,
  SMALLEST = 4096

interface Window {
  readonly values: Float64Array
  readonly gain: number
}

const windows = new Map<number, Window>(),
  transforms = new Map<number, FFT>()
/** Lengths whose window or transform is kept: a live view asks for the same one again and again. */
const KEPT = 8

const kept = <T>(of: Map<number, T>, size: number, make: (size: number) => T): T => {
  let known = of.get(size)
  if (known) return known
  known = make(size)
  if (of.size >= KEPT) of.clear()
  of.set(size, known)
  return known
}

const windowOf = (size: number): Window => {
  const values = Float64Array.from({ length: size }, (_, i) =>
    WINDOW.reduce((sum, a, k) => sum + a * Math.cos((2 * Math.PI * k * i) / size), 0),
  )
  return { values, gain: values.reduce((sum, w) => sum + w, 0) }
}

export interface Spectrum {
  /** Mean amplitude of every bin: a sine at full scale reads 1. */
  readonly amplitudes: Float64Array
  /** Hertz from one bin to the next. */
  readonly binHz: number
}

/**
 * Mean spectrum of a sound, over stretches that overlap by half (Welch 1967); what is shorter than a stretch is filled
 * up with silence, its level counted over what is there.
 */
export const spectrumOf = (channels: readonly Float32Array[], rate: number): Spectrum => {
  const frames = channels[0]?.length ?? 0
  let size = LARGEST
  while (size > SMALLEST && size > frames) size /= 2
  const used = Math.min(size, Math.max(1, frames)),
    { values: window, gain } = kept(windows, used, windowOf)
  const fft = kept(transforms, size, (length) => new FFT(length))
  const power = new Float64Array(size / 2),
    input = new Array<number>(size).fill(0),
    output = fft.createComplexArray()
  let count = 0
  for (const x of channels) {
    for (let at = 0; at === 0 || at + used <= frames; at += used / 2) {
      for (let i = 0; i < used; i += 1) input[i] = (x[Math.floor(at) + i] ?? 0) * window[i]!
      fft.realTransform(output, input)
      for (let k = 0; k < size / 2; k += 1)
        power[k]! += (output[2 * k]! ** 2 + output[2 * k + 1]! ** 2) * (2 / gain) ** 2
      count += 1
    }
  }
  return { amplitudes: power.map((p) => Math.sqrt(p / Math.max(1, count))), binHz: rate / size }
}

export interface SpectrumPeak {
  readonly hz: number
  readonly db: number
}

const MOST_PEAKS = 16
/** Peaks further below the highest than this are noise. */
const DEEPEST_DB = 70
const LOWEST_HZ = 16

/** The highest peaks, loudest first: places between bins by a parabola through three levels in decibels. */
export const peaksOf = ({ amplitudes, binHz }: Spectrum): SpectrumPeak[] => {
  const level = (k: number): number => 20 * Math.log10(Math.max(amplitudes[k] ?? 0, 1e-12))
  const found: SpectrumPeak[] = []
  for (let k = Math.max(2, Math.ceil(LOWEST_HZ / binHz)); k < amplitudes.length - 2; k += 1) {
    const [a, b, c] = [level(k - 1), level(k), level(k + 1)]
    if (!(b > a && b >= c) || b < level(k - 2) || b < level(k + 2)) continue
    const shift = (0.5 * (a - c)) / (a - 2 * b + c)
    found.push({ hz: (k + shift) * binHz, db: b - 0.25 * (a - c) * shift })
  }
  found.sort((p, q) => q.db - p.db)
  const most = found[0]?.db ?? -Infinity
  return most < -120 ? [] : found.filter(({ db }) => db > most - DEEPEST_DB).slice(0, MOST_PEAKS)
}
