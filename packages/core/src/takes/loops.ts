/**
 * Where a sound can go round: pairs of places that look alike, found by correlation, ranked by how well waveform and
 * spectrum match, and the crossfade that hides what is left. Only + − × ÷ √ and what is exact everywhere: the same loop
 * on every machine.
 */
import { nextPowerOfTwo } from '../describe/rings.ts'
import { exactLog } from '../units/exact.ts'
import { exactTransform } from '../units/fourier.ts'
import { BAND_FRAMES, bandPowers, decibels } from './bands.ts'
import { energiesOf } from './energies.ts'

export interface LoopMatch {
  /** Frames it goes round in, the end not included. */
  readonly start: number
  readonly end: number
  /** Mean square of the difference of what surrounds both ends, against what is there, in dB. */
  readonly matchDb: number
  /** Mean difference of the levels of their spectra, third of an octave by third, in dB. */
  readonly spectrumDb: number
}

export interface LoopSearch {
  /** Frames between which it may lie. */
  readonly from: number
  readonly to: number
  /** At the most. */
  readonly count?: number
}

/** What surrounds a place, in seconds; looked at coarsely at this rate first. */
const WINDOW_SECONDS = 0.085,
  COARSE_HZ = 12000
/** Places of the end that are tried. */
const ENDS = 12
/** Of a loop; of shorter stretches a quarter. */
const LEAST_SECONDS = 0.1
/** Stretch that is looked at: the last of it. */
const MOST_SECONDS = 6
/** Beginnings that are looked at closely for every end. */
const BEGINNINGS = 6
/** Levels further apart than this cannot match: −24 dB, where −30 are asked for. */
const WORTH = 0.004
/** Matches whose spectra are looked at. */
const LOOKED_AT = 24
/** A decibel of difference in the spectra counts as so many of the waveform, an octave of length as so many less. */
const SPECTRUM_WEIGHT = 3,
  LENGTH_WEIGHT = 1
const LOWEST_HZ = 40,
  THIRD = 1.2599210498948732
const SILENCE = 1e-12

/** All channels added up, so many samples in one. */
const coarse = (channels: readonly Float32Array[], by: number): Float32Array => {
  const frames = Math.floor((channels[0]?.length ?? 0) / by)
  const out = new Float32Array(frames)
  for (const channel of channels)
    for (let n = 0; n < frames; n += 1) {
      let sum = 0
      for (let i = 0; i < by; i += 1) sum += channel[n * by + i]!
      out[n]! += sum
    }
  return out
}

/** A stretch of a sound, correlated with what surrounds places in it: two places at a time. */
class Correlation {
  private readonly size: number
  private readonly re: Float64Array
  private readonly im: Float64Array

  constructor(
    private readonly x: Float32Array,
    private readonly window: number,
  ) {
    this.size = nextPowerOfTwo(x.length + window)
    this.re = new Float64Array(this.size)
    this.im = new Float64Array(this.size)
    this.re.set(x)
    exactTransform(this.re, this.im, 1)
  }

  /** Sum of products of what surrounds each of two places with what surrounds every other. */
  at(one: number, other: number): readonly [Float64Array, Float64Array] {
    const { x, size, window, re, im } = this,
      half = window >> 1
    const a = new Float64Array(size),
      b = new Float64Array(size)
    for (let k = 0; k < window; k += 1) {
      a[k] = x[one - half + k] ?? 0
      b[k] = x[other - half + k] ?? 0
    }
    exactTransform(a, b, -1)
    for (let n = 0; n < size; n += 1) {
      const r = (a[n]! * re[n]! - b[n]! * im[n]!) / size
      b[n] = (a[n]! * im[n]! + b[n]! * re[n]!) / size
      a[n] = r
    }
    // Both go back at once: what is real belongs to one, what is imaginary to the other.
    exactTransform(a, b, -1)
    return [a, b]
  }
}

/** Levels of a stretch's spectrum in dB, third of an octave by third. */
const levelsAt = (channels: readonly Float32Array[], at: number, edges: readonly number[]): Float64Array => {
  const powers = bandPowers(channels, at, edges)
  const most = powers.reduce((one, other) => Math.max(one, other), SILENCE)
  // What is 60 dB below the loudest band is not heard beside it.
  return powers.map((power) => decibels(Math.max(power, most * 1e-6)))
}

/** Bins at the edges of thirds of octaves. */
const thirdsOf = (rate: number): number[] => {
  const edges = [1]
  for (let hz = LOWEST_HZ; edges.at(-1)! < BAND_FRAMES / 2; hz *= THIRD)
    edges.push(Math.max(edges.at(-1)! + 1, Math.min(BAND_FRAMES / 2, Math.round((hz * BAND_FRAMES) / rate))))
  return edges
}

const spectrumDistance = (one: Float64Array, other: Float64Array): number => {
  let sum = 0
  for (let n = 0; n < one.length; n += 1) sum += Math.abs(one[n]! - other[n]!)
  return sum / Math.max(1, one.length)
}

/** Lowest places of a curve up to a count: what lies between its samples counts, by a parabola. */
const lowest = (curve: Float64Array, count: number): number[] => {
  const found: { readonly at: number; readonly low: number }[] = []
  for (let n = 1; n + 1 < curve.length; n += 1) {
    const before = curve[n - 1]!,
      here = curve[n]!,
      behind = curve[n + 1]!
    if (here > before || here >= behind || before === Infinity) continue
    const bend = before - 2 * here + behind
    found.push({ at: n, low: here - (bend > 0 ? (before - behind) ** 2 / (8 * bend) : 0) })
  }
  found.sort((a, b) => a.low - b.low || a.at - b.at)
  return found.slice(0, count).map(({ at }) => at)
}

/** One search: a stretch, and how well two places of it match. */
class Search {
  readonly window: number
  private readonly energies: Float64Array
  private readonly edges: readonly number[]

  constructor(
    private readonly channels: readonly Float32Array[],
    readonly rate: number,
  ) {
    this.edges = thirdsOf(rate)
    this.window = 2 * Math.round((WINDOW_SECONDS * rate) / 2)
    this.energies = energiesOf(channels)
  }

  energy(at: number): number {
    const half = this.window >> 1,
      last = this.energies.length - 1
    return this.energies[Math.min(last, at + half)]! - this.energies[Math.max(0, at - half)]!
  }

  /** Mean square of the difference against the mean of both. */
  difference(start: number, end: number): number {
    const half = this.window >> 1
    let sum = 0
    for (const channel of this.channels)
      for (let k = -half; k < half; k += 1) {
        const apart = (channel[start + k] ?? 0) - (channel[end + k] ?? 0)
        sum += apart * apart
      }
    return sum / Math.max(SILENCE, (this.energy(start) + this.energy(end)) / 2)
  }

  /** The start around a place that matches an end best. */
  refined(around: number, end: number, by: number, least: number): LoopMatch {
    let best = around,
      lowestSoFar = Infinity
    for (let start = Math.max(least, around - by); start <= around + by; start += 1) {
      const apart = this.difference(start, end)
      if (apart < lowestSoFar) {
        lowestSoFar = apart
        best = start
      }
    }
    return { start: best, end, matchDb: decibels(lowestSoFar), spectrumDb: 0 }
  }

  /** Is there a place before an end whose level is near enough for a match worth looking for? */
  hasLevel(end: number, first: number, until: number): boolean {
    const own = Math.sqrt(this.energy(end))
    for (let at = first; at < until; at += this.window >> 2) {
      const other = Math.sqrt(this.energy(at)),
        apart = other - own
      if (apart * apart <= WORTH * ((own * own + other * other) / 2)) return true
    }
    return false
  }

  withSpectrum(match: LoopMatch): LoopMatch {
    const half = BAND_FRAMES >> 1
    const [one, other] = [match.start, match.end].map((at) =>
      levelsAt(this.channels, Math.max(0, at - half), this.edges),
    )
    return { ...match, spectrumDb: spectrumDistance(one!, other!) }
  }
}

/** What a loop is ranked by: less is better. */
const scoreOf = ({ start, end, matchDb, spectrumDb }: LoopMatch, rate: number): number =>
  matchDb + SPECTRUM_WEIGHT * spectrumDb - (LENGTH_WEIGHT * exactLog((end - start) / rate)) / Math.LN2

/**
 * Loops of a sound by their rank: waveform around both ends, spectrum around both ends, length (a longer one is heard
 * less as one). None where the sound is silent or the stretch is too short.
 */
export const loopMatches = (
  channels: readonly Float32Array[],
  rate: number,
  { from, to, count = 8 }: LoopSearch,
): readonly LoopMatch[] => {
  const search = new Search(channels, rate)
  const half = search.window >> 1
  const first = Math.max(from, to - Math.round(MOST_SECONDS * rate), half),
    last = Math.min(to, channels[0]?.length ?? 0) - half,
    least = Math.min(Math.round(LEAST_SECONDS * rate), Math.floor((last - first) / 4))
  if (least < half || search.energy((first + last) >> 1) < SILENCE) return []
  const by = Math.max(1, Math.floor(rate / COARSE_HZ)),
    base = first - half,
    stretch = coarse(
      channels.map((channel) => channel.subarray(base, last + half)),
      by,
    )
  const window = 2 * Math.floor(search.window / by / 2),
    correlation = new Correlation(stretch, window),
    energies = energiesOf([stretch])
  const energyAt = (n: number): number =>
    (energies[Math.min(stretch.length, n + (window >> 1))] ?? 0) -
    (energies[Math.max(0, n - (window >> 1))] ?? 0)
  const apartFrom = (place: number, product: Float64Array, until: number): Float64Array => {
    const own = energyAt(place),
      apart = new Float64Array(Math.max(0, until)).fill(Infinity)
    for (let m = window >> 1; m < until; m += 1) {
      const other = energyAt(m)
      // The product of what surrounds a place begins half a window before it.
      apart[m] = (own + other - 2 * product[m - (window >> 1)]!) / Math.max(SILENCE, (own + other) / 2)
    }
    return apart
  }
  // Ends lie in the later half of what there is.
  const ends = Array.from(
    { length: ENDS },
    (_, n) => last - Math.round(((last - first) * n) / (2 * ENDS)),
  ).filter((end) => search.hasLevel(end, first, end - least))
  const matches: LoopMatch[] = []
  for (let n = 0; n < ends.length; n += 2) {
    const pair = ends.slice(n, n + 2),
      places = pair.map((end) => Math.round((end - base) / by)),
      products = correlation.at(places[0]!, places[1] ?? places[0]!)
    pair.forEach((end, index) => {
      const apart = apartFrom(places[index]!, products[index]!, Math.floor((end - least - base) / by))
      for (const m of lowest(apart, BEGINNINGS))
        matches.push(search.refined(base + m * by, end, 2 * by, first))
    })
  }
  return matches
    .sort((a, b) => a.matchDb - b.matchDb || a.start - b.start || a.end - b.end)
    .slice(0, LOOKED_AT)
    .map((match) => search.withSpectrum(match))
    .sort((a, b) => scoreOf(a, rate) - scoreOf(b, rate) || a.start - b.start || a.end - b.end)
    .slice(0, count)
}
