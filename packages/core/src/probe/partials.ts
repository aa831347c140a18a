/** The partials of a sound: how loud each is, and where it lies against the lowest. */
import { pitchOf } from '../analysis/pitch.ts'
import { peaksOf, type Spectrum, type SpectrumPeak, spectrumOf } from '../analysis/spectrum.ts'
import type { PathSound } from './responses.ts'

export interface FoundPartials {
  /** 0…1, the loudest 1. */
  readonly levels: readonly number[]
  /** To the lowest, or to the pitch where there is one. */
  readonly ratios: readonly number[]
  /** Partials lie on multiples of a pitch. */
  readonly isHarmonic: boolean
}

/** A partial may lie so far off its multiple, as a share of the pitch. */
const OFF = 0.2
/** Of a harmonic sound this share of what is heard lies so near to multiples of its pitch. */
const HARMONIC_SHARE = 0.9,
  NEAR = 0.04
/** What is further below the loudest is not there. */
const DEEPEST_DB = 70

/** The highest bin around a frequency: its frequency and amplitude. */
const highestNear = ({ amplitudes, binHz }: Spectrum, hz: number, width: number) => {
  let best = Math.max(1, Math.round(hz / binHz))
  const from = Math.max(1, Math.ceil((hz - width) / binHz)),
    to = Math.min(amplitudes.length - 2, Math.floor((hz + width) / binHz))
  for (let k = from; k <= to; k += 1) if ((amplitudes[k] ?? 0) > (amplitudes[best] ?? 0)) best = k
  const [a, b, c] = [-1, 0, 1].map((step) => Math.log(Math.max(amplitudes[best + step] ?? 0, 1e-12))) as [
    number,
    number,
    number,
  ]
  const bend = a - 2 * b + c,
    shift = bend < 0 ? Math.min(0.5, Math.max(-0.5, (0.5 * (a - c)) / bend)) : 0
  // Between two bins it is higher than either.
  return { hz: (best + shift) * binHz, amplitude: Math.exp(b - 0.25 * (a - c) * shift) }
}

const rounded = (x: number, digits: number): number => Number(x.toFixed(digits))

const scaled = (
  found: readonly { readonly hz: number; readonly amplitude: number }[],
  base: number,
  isHarmonic: boolean,
): FoundPartials => {
  const most = found.reduce((high, { amplitude }) => Math.max(high, amplitude), 0),
    least = most * 10 ** (-DEEPEST_DB / 20)
  return {
    levels: found.map(({ amplitude }) => (amplitude > least ? rounded(amplitude / most, 4) : 0)),
    ratios: found.map(({ hz, amplitude }, n) => rounded(amplitude > least ? hz / base : n + 1, 4)),
    isHarmonic,
  }
}

const isHarmonicOf = (peaks: readonly SpectrumPeak[], pitch: number): boolean => {
  let all = 0,
    near = 0
  for (const { hz, db } of peaks) {
    const amplitude = 10 ** (db / 20),
      place = hz / pitch
    all += amplitude
    if (Math.abs(place - Math.max(1, Math.round(place))) < NEAR) near += amplitude
  }
  return near >= HARMONIC_SHARE * all
}

/** Up to `count` partials of a sound; undefined where nothing is heard. */
export const partialsFrom = ({ channels, rate }: PathSound, count: number): FoundPartials | undefined => {
  const spectrum = spectrumOf(channels, rate),
    peaks = peaksOf(spectrum)
  if (peaks.length === 0) return undefined
  const pitch = pitchOf(channels, rate)
  if (pitch !== undefined && isHarmonicOf(peaks, pitch)) {
    const most = Math.min(count, Math.floor(rate / 2 / pitch))
    const found = Array.from({ length: most }, (_, n) => highestNear(spectrum, (n + 1) * pitch, OFF * pitch))
    return scaled(found, pitch, true)
  }
  const found = [...peaks]
    .slice(0, count)
    .sort((a, b) => a.hz - b.hz)
    .map(({ hz, db }) => ({ hz, amplitude: 10 ** (db / 20) }))
  return scaled(found, found[0]!.hz, false)
}
