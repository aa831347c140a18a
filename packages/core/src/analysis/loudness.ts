/**
 * Loudness (EBU R128, ITU-R BS.1770-4): of a whole sound, or heard piece by piece in bounded memory. Only + − × ÷ √ and
 * what is exact everywhere, so that gains worked out from it are the same on every machine.
 */
import type { Sound } from '../formats/wav.ts'
import { exactCosine, exactLog, exactPower, exactSine } from '../units/exact.ts'

interface Biquad {
  readonly b: readonly [number, number, number]
  readonly a: readonly [number, number]
}

const TURN = 0.5
/** tan(π f / rate). */
const warped = (hz: number, rate: number): number =>
  exactSine((TURN * hz) / rate) / exactCosine((TURN * hz) / rate)

/** The two stages of K weighting at any rate (annex 1, its analogue prototypes through the bilinear transform). */
const weighting = (rate: number): readonly [Biquad, Biquad] => {
  const shelf = ((): Biquad => {
    const k = warped(1681.974450955533, rate),
      q = 0.7071752369554196,
      vh = exactPower(10, 3.999843853973347 / 20),
      vb = exactPower(vh, 0.4996667741545416),
      n = 1 + k / q + k * k
    return {
      b: [(vh + (vb * k) / q + k * k) / n, (2 * (k * k - vh)) / n, (vh - (vb * k) / q + k * k) / n],
      a: [(2 * (k * k - 1)) / n, (1 - k / q + k * k) / n],
    }
  })()
  const k = warped(38.13547087602444, rate),
    q = 0.5003270373238773,
    n = 1 + k / q + k * k
  return [shelf, { b: [1, -2, 1], a: [(2 * (k * k - 1)) / n, (1 - k / q + k * k) / n] }]
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

/** Tenths of a second in the two lengths that are measured. */
const MOMENTARY_HOPS = 4,
  SHORT_TERM_HOPS = 30,
  HOP_SECONDS = 0.1,
  ABSOLUTE_GATE = -70,
  RELATIVE_GATE = -10,
  RANGE_GATE = -20,
  LOWEST_SHARE = 0.1,
  HIGHEST_SHARE = 0.95
const levelOf = (power: number): number => -0.691 + (10 / Math.LN10) * exactLog(Math.max(power, 1e-30))
const mean = (list: readonly number[]): number =>
  list.reduce((sum, x) => sum + x, 0) / Math.max(1, list.length)

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

/** Numbers a channel's two filters remember. */
const MEMORY = 6

/** Hears a sound piece by piece; it keeps ten numbers a second. */
export class LoudnessMeter {
  private readonly stages: readonly [Biquad, Biquad]
  private readonly memory: readonly Float64Array[]
  private readonly hopFrames: number
  /** Mean power of every whole tenth of a second, all channels added. */
  private readonly hops: number[] = []
  private sum = 0
  private count = 0

  constructor(rate: number, channels: number) {
    this.stages = weighting(rate)
    this.memory = Array.from({ length: channels }, () => new Float64Array(MEMORY))
    this.hopFrames = Math.round(HOP_SECONDS * rate)
  }

  /** The next frames of every channel. */
  add(channels: readonly Float32Array[]): void {
    const frames = channels[0]?.length ?? 0
    for (let at = 0; at < frames;) {
      const until = Math.min(frames, at + this.hopFrames - this.count)
      this.memory.forEach((memory, n) => {
        this.sum += this.power(channels[n]!, at, until, memory)
      })
      this.count += until - at
      at = until
      if (this.count < this.hopFrames) continue
      this.hops.push(this.sum / this.hopFrames)
      this.sum = 0
      this.count = 0
    }
  }

  /** Sum of squares of some frames of a channel, weighted. */
  private power(x: Float32Array, from: number, to: number, memory: Float64Array): number {
    const [{ b: b1, a: a1 }, { b: b2, a: a2 }] = this.stages
    let [x1, x2, y1, y2, z1, z2] = memory as unknown as [number, number, number, number, number, number],
      sum = 0
    for (let i = from; i < to; i += 1) {
      const now = x[i]!,
        y = b1[0] * now + b1[1] * x1 + b1[2] * x2 - a1[0] * y1 - a1[1] * y2,
        z = b2[0] * y + b2[1] * y1 + b2[2] * y2 - a2[0] * z1 - a2[1] * z2
      x2 = x1
      x1 = now
      y2 = y1
      y1 = y
      z2 = z1
      z1 = z
      sum += z * z
    }
    memory.set([x1, x2, y1, y2, z1, z2])
    return sum
  }

  /** Mean power of every stretch of so many tenths of a second, one each tenth. */
  private powers(hops: number): number[] {
    const powers: number[] = []
    for (let at = 0; at + hops <= this.hops.length; at += 1) {
      let sum = 0
      for (let n = at; n < at + hops; n += 1) sum += this.hops[n]!
      powers.push(sum / hops)
    }
    return powers
  }

  /** Integrated loudness in LUFS. */
  get integrated(): number {
    return integratedOf(this.powers(MOMENTARY_HOPS))
  }

  /** The last 0.4 s and the last 3 s in LUFS; −∞ until there is as much. */
  get now(): { readonly momentary: number; readonly shortTerm: number } {
    const last = (hops: number): number => {
      if (this.hops.length < hops) return -Infinity
      const power = mean(this.hops.slice(-hops))
      return power > 0 ? levelOf(power) : -Infinity
    }
    return { momentary: last(MOMENTARY_HOPS), shortTerm: last(SHORT_TERM_HOPS) }
  }

  get loudness(): Loudness {
    const short = this.powers(MOMENTARY_HOPS),
      long = this.powers(SHORT_TERM_HOPS)
    return {
      integrated: integratedOf(short),
      momentary: highest(short),
      shortTerm: highest(long),
      range: rangeOf(long),
    }
  }
}

const heard = ({ rate, channels }: Sound): LoudnessMeter => {
  const meter = new LoudnessMeter(rate, channels.length)
  meter.add(channels)
  return meter
}

/** Loudness of a sound. Mono counts once, as one channel of two. */
export const measureLoudness = (sound: Sound): Loudness => heard(sound).loudness

/** Integrated loudness in LUFS alone. */
export const loudness = (sound: Sound): number => heard(sound).integrated
