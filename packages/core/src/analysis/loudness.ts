import type { Sound } from '../formats/wav.ts'

/** Loudness of a sound, for measuring only: none of this reaches audio. */
interface Biquad {
  readonly b: readonly [number, number, number]
  readonly a: readonly [number, number]
}

/** The two stages of K weighting at any rate (ITU-R BS.1770-4, annex 1, its analogue prototypes through the bilinear transform). */
const weighting = (rate: number): readonly [Biquad, Biquad] => {
  const shelf = ((): Biquad => {
    const k = Math.tan((Math.PI * 1681.974450955533) / rate),
      q = 0.7071752369554196,
      vh = 10 ** (3.999843853973347 / 20),
      vb = vh ** 0.4996667741545416,
      n = 1 + k / q + k * k
    return {
      b: [(vh + (vb * k) / q + k * k) / n, (2 * (k * k - vh)) / n, (vh - (vb * k) / q + k * k) / n],
      a: [(2 * (k * k - 1)) / n, (1 - k / q + k * k) / n],
    }
  })()
  const k = Math.tan((Math.PI * 38.13547087602444) / rate),
    q = 0.5003270373238773,
    n = 1 + k / q + k * k
  return [shelf, { b: [1, -2, 1], a: [(2 * (k * k - 1)) / n, (1 - k / q + k * k) / n] }]
}

const filtered = (x: ArrayLike<number>, { b, a }: Biquad): Float64Array => {
  const y = new Float64Array(x.length)
  let x1 = 0,
    x2 = 0,
    y1 = 0,
    y2 = 0
  for (let i = 0; i < x.length; i += 1) {
    const now = x[i]!,
      out = b[0] * now + b[1] * x1 + b[2] * x2 - a[0] * y1 - a[1] * y2
    x2 = x1
    x1 = now
    y2 = y1
    y1 = out
    y[i] = out
  }
  return y
}

/** What a sound measures in loudness; −Infinity for silence. */
export interface Loudness {
  /** Integrated, LUFS: blocks of 0.4 s, gated at −70 LUFS and 10 LU below their mean (BS.1770-4). */
  readonly integrated: number
  /** Loudest 0.4 s and loudest 3 s, LUFS (EBU Tech 3341). */
  readonly momentary: number
  readonly shortTerm: number
  /** Loudness range, LU: 10th to 95th percentile of 3 s, gated at −70 LUFS and 20 LU below their mean (Tech 3342). */
  readonly range: number
}

const MOMENTARY_SECONDS = 0.4,
  SHORT_TERM_SECONDS = 3,
  HOP_SECONDS = 0.1,
  ABSOLUTE_GATE = -70,
  RELATIVE_GATE = -10,
  RANGE_GATE = -20,
  LOWEST_SHARE = 0.1,
  HIGHEST_SHARE = 0.95
const levelOf = (power: number): number => -0.691 + 10 * Math.log10(Math.max(power, 1e-30))
const mean = (list: readonly number[]): number =>
  list.reduce((sum, x) => sum + x, 0) / Math.max(1, list.length)

/** Weighted power of every stretch of some seconds, all channels added, one each 0.1 s. */
const powersOf = (sums: readonly Float64Array[], rate: number, seconds: number): number[] => {
  const size = Math.round(seconds * rate),
    hop = Math.round(HOP_SECONDS * rate),
    powers: number[] = []
  for (let at = 0; at + size <= (sums[0]?.length ?? 0) - 1; at += hop)
    powers.push(sums.reduce((total, sum) => total + (sum[at + size]! - sum[at]!) / size, 0))
  return powers
}

/** Running sums of squares of the weighted channels: the power of any stretch is a difference. */
const weightedSums = (sound: Sound): Float64Array[] => {
  const [shelf, cut] = weighting(sound.rate)
  return sound.channels.map((channel) => {
    const weighted = filtered(filtered(channel, shelf), cut)
    const sums = new Float64Array(weighted.length + 1)
    for (let i = 0; i < weighted.length; i += 1) sums[i + 1] = sums[i]! + weighted[i]! * weighted[i]!
    return sums
  })
}

const integratedOf = (powers: readonly number[]): number => {
  const heard = powers.filter((power) => levelOf(power) > ABSOLUTE_GATE)
  if (heard.length === 0) return -Infinity
  const gate = levelOf(mean(heard)) + RELATIVE_GATE
  return levelOf(mean(heard.filter((power) => levelOf(power) > gate)))
}

const rangeOf = (powers: readonly number[]): number => {
  const heard = powers.filter((power) => levelOf(power) > ABSOLUTE_GATE)
  if (heard.length === 0) return 0
  const gate = levelOf(mean(heard)) + RANGE_GATE
  const levels = heard
    .map(levelOf)
    .filter((level) => level > gate)
    .sort((a, b) => a - b)
  const at = (share: number): number => levels[Math.round(share * (levels.length - 1))]!
  return at(HIGHEST_SHARE) - at(LOWEST_SHARE)
}

const highest = (powers: readonly number[]): number =>
  powers.reduce((most, power) => Math.max(most, power > 0 ? levelOf(power) : -Infinity), -Infinity)

/** Loudness of a sound (EBU R128, ITU-R BS.1770-4). Mono counts once, as one channel of two. */
export const measureLoudness = (sound: Sound): Loudness => {
  const sums = weightedSums(sound)
  const short = powersOf(sums, sound.rate, MOMENTARY_SECONDS),
    long = powersOf(sums, sound.rate, SHORT_TERM_SECONDS)
  return {
    integrated: integratedOf(short),
    momentary: highest(short),
    shortTerm: highest(long),
    range: rangeOf(long),
  }
}

/** Integrated loudness in LUFS alone. */
export const loudness = (sound: Sound): number =>
  integratedOf(powersOf(weightedSums(sound), sound.rate, MOMENTARY_SECONDS))
