/**
 * Where something begins in a recording. Candidates are peaks of the rise of the spectrum's levels, band by band (spectral
 * flux; Bello et al., "A tutorial on onset detection in music signals", 2005); each is then looked for in the samples
 * themselves: the level before it, the level after it, and where the way between the two begins.
 */
import FFT from 'fft.js'
import { peakOf } from '../analysis/truepeak.ts'
import { piecesOf, type Tape } from './tape.ts'

const SIZE = 1024,
  HOP = 128
/** Bands of a third of an octave, from this on. */
const LOWEST_HZ = 40,
  PER_OCTAVE = 3
/** Levels are told apart down to this below the loudest band of all. */
const RANGE_DB = 70
/** What a level is compared with: the loudest of some hops before, from the first to the last of them. */
interface Rise {
  readonly first: number
  readonly last: number
  /** A mean rise of all bands below this is none. */
  readonly leastDb: number
  /** Hops before it in which the sound may have begun. */
  readonly within: number
}
/** What is struck or plucked, and what swells. */
const RISES: readonly Rise[] = [
  { first: 1, last: 3, leastDb: 3, within: 5 },
  { first: 22, last: 34, leastDb: 4, within: 48 },
]
const LONGEST = 34
/** Around a peak of the rise there is no higher one, and it is so much above what is usual around it. */
const NEAR_SECONDS = 0.03,
  AROUND_SECONDS = 0.15,
  ABOVE_USUAL = 1.6

/** Levels of all bands, one column each hop; the middle of a column's window is where it counts. */
class Bands {
  private readonly fft = new FFT(SIZE)
  private readonly window = Float64Array.from(
    { length: SIZE },
    (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (n + 0.5)) / SIZE),
  )
  private readonly work = new Array<number>(SIZE).fill(0)
  private readonly out: number[]
  private readonly edges: number[] = []

  constructor(rate: number) {
    this.out = this.fft.createComplexArray() as number[]
    for (let hz = LOWEST_HZ; hz < rate / 2; hz *= 2 ** (1 / PER_OCTAVE)) {
      const bin = Math.round((hz * SIZE) / rate)
      if (bin > (this.edges.at(-1) ?? 0)) this.edges.push(bin)
    }
    this.edges.push(SIZE / 2)
  }

  /** Power of every band of a window of samples. */
  powers(samples: Float64Array): Float64Array {
    for (let n = 0; n < SIZE; n += 1) this.work[n] = samples[n]! * this.window[n]!
    this.fft.realTransform(this.out, this.work)
    return Float64Array.from({ length: this.edges.length - 1 }, (_, band) => {
      let sum = 0
      for (let bin = this.edges[band]!; bin < this.edges[band + 1]!; bin += 1)
        sum += this.out[2 * bin]! ** 2 + this.out[2 * bin + 1]! ** 2
      return sum
    })
  }
}

/** All channels added up: what begins in one of them begins. */
const mono = (channels: readonly Float32Array[]): Float32Array =>
  Float32Array.from(channels[0]!, (_, n) => channels.reduce((sum, channel) => sum + channel[n]!, 0))

/** Powers of all bands for every hop of a tape; half a window of silence before it. */
async function* columnsOf(tape: Tape): AsyncGenerator<Float64Array> {
  const bands = new Bands(tape.rate),
    window = new Float64Array(SIZE)
  let filled = SIZE / 2
  const next = (x: number): boolean => {
    window[filled] = x
    filled += 1
    return filled === SIZE
  }
  const shift = (): void => {
    window.copyWithin(0, HOP)
    filled -= HOP
  }
  for await (const piece of piecesOf(tape))
    for (const x of mono(piece))
      if (next(x)) {
        yield bands.powers(window)
        shift()
      }
  for (let n = 0; n < SIZE / 2; n += 1)
    if (next(0)) {
      yield bands.powers(window)
      shift()
    }
}

/** How far the levels of all bands rise at every hop, mean of the rises in dB: for each way to compare them. */
const risesOf = async (tape: Tape): Promise<readonly number[][]> => {
  let peak = 0
  for await (const piece of piecesOf(tape)) peak = Math.max(peak, peakOf([mono(piece)]))
  // A tone at the peak gives a quarter of the window's square.
  const floor = Math.max((peak * SIZE) / 4, 1e-12) ** 2 * 10 ** (-RANGE_DB / 10)
  const level = (power: number): number => 10 * Math.log10(Math.max(power, floor))
  const rises = RISES.map((): number[] => [])
  let before: Float64Array[] = []
  for await (const powers of columnsOf(tape)) {
    const column = powers.map(level)
    RISES.forEach(({ first, last }, n) => {
      const others = before.slice(Math.max(0, before.length - last), Math.max(0, before.length - first + 1))
      let sum = 0
      column.forEach((now, band) => {
        let was = level(0)
        for (const other of others) was = Math.max(was, other[band]!)
        sum += Math.max(0, now - was)
      })
      rises[n]!.push(sum / column.length)
    })
    before = [...before.slice(1 - LONGEST), column]
  }
  return rises
}

/** Hops at which a rise is a peak that stands out. */
const peaksIn = (rises: readonly number[], leastDb: number, hopSeconds: number): number[] => {
  const near = Math.round(NEAR_SECONDS / hopSeconds),
    around = Math.round(AROUND_SECONDS / hopSeconds)
  const peaks: number[] = []
  rises.forEach((rise, at) => {
    if (rise < leastDb) return
    for (let n = Math.max(0, at - near); n <= Math.min(rises.length - 1, at + near); n += 1)
      if (rises[n]! > rise || (rises[n] === rise && n < at)) return
    const others = rises.slice(Math.max(0, at - around), at + around).sort((a, b) => a - b)
    if (rise > ABOVE_USUAL * others[others.length >> 1]!) peaks.push(at)
  })
  return peaks
}

/** What is looked at around a candidate. */
const BEFORE_SECONDS = 0.2,
  AFTER_SECONDS = 0.06
/** The level holds its peaks for so long. */
const HOLD_SECONDS = 0.006
/** The way up counts from this share on; a straight line through two shares of it says where it began. */
const FIRST_SHARE = 0.03,
  SECOND_SHARE = 0.1,
  LONGEST_LEAD_SECONDS = 0.006

/** Without what is below a frequency (two poles, Butterworth). */
const highPassed = (x: Float32Array, hz: number, rate: number): Float32Array => {
  const k = Math.tan((Math.PI * hz) / rate),
    n = 1 / (1 + Math.SQRT2 * k + k * k),
    a1 = 2 * (k * k - 1) * n,
    a2 = (1 - Math.SQRT2 * k + k * k) * n
  let x1 = 0,
    x2 = 0,
    y1 = 0,
    y2 = 0
  return x.map((now) => {
    const y = n * (now - 2 * x1 + x2) - a1 * y1 - a2 * y2
    x2 = x1
    x1 = now
    y2 = y1
    y1 = y
    return y
  })
}

/** Peaks held for a while, falling from them. */
const levelOf = (x: Float32Array, rate: number): Float32Array => {
  const keep = Math.exp(-1 / (HOLD_SECONDS * rate))
  let level = 0
  return x.map((now) => (level = Math.max(Math.abs(now), level * keep)))
}

interface Begin {
  readonly frame: number
  /** How many times louder it is than what was before. */
  readonly ratio: number
}

/** Where the level of a stretch begins its way up to what is loudest around `middle`, at most `within` frames before. */
const beginOf = (level: Float32Array, middle: number, within: number, rate: number): Begin => {
  // The loudest that it becomes, and the softest before.
  const first = Math.max(0, middle - SIZE / 2 - within),
    last = Math.min(level.length, middle + Math.round(AFTER_SECONDS * rate))
  let top = Math.min(Math.max(0, middle - SIZE / 2), last - 1)
  for (let n = top; n < last; n += 1) if (level[n]! > level[top]!) top = n
  let low = top
  for (let n = top; n >= first; n -= 1) if (level[n]! <= level[low]!) low = n
  const from = level[low]!,
    way = level[top]! - from
  /** Where it was below a share of the way for the last time. */
  const left = (share: number): number => {
    let n = top
    while (n > low && level[n]! > from + share * way) n -= 1
    return n
  }
  const early = left(FIRST_SHARE),
    late = left(SECOND_SHARE)
  const lead = Math.min(
    ((late - early) * FIRST_SHARE) / (SECOND_SHARE - FIRST_SHARE),
    LONGEST_LEAD_SECONDS * rate,
  )
  return { frame: Math.max(low, early - Math.round(lead)), ratio: level[top]! / Math.max(from, 1e-9) }
}

/** All of it, and without its lower parts: whichever rises most tells best where it begins. */
const CUTS_HZ = [0, 800, 4000]

const refined = async (tape: Tape, at: number, within: number): Promise<number> => {
  const { rate } = tape
  const start = at - Math.round(BEFORE_SECONDS * rate),
    end = at + Math.round(AFTER_SECONDS * rate)
  const x = mono(await tape.read(start, end))
  const begins = CUTS_HZ.map((hz) =>
    beginOf(levelOf(hz === 0 ? x : highPassed(x, hz, rate), rate), at - start, within, rate),
  )
  const best = begins.reduce((one, other) => (other.ratio > 2 * one.ratio ? other : one))
  return Math.min(tape.frames - 1, Math.max(0, start + best.frame))
}

/** Frames at which something begins, in their order. */
export const onsetsOf = async (tape: Tape): Promise<number[]> => {
  const rises = await risesOf(tape),
    hopSeconds = HOP / tape.rate
  const found: number[] = []
  for (const [n, { leastDb, within }] of RISES.entries())
    for (const hop of peaksIn(rises[n]!, leastDb, hopSeconds))
      // That it ends there is no beginning.
      if (hop * HOP < tape.frames - SIZE / 2) found.push(await refined(tape, hop * HOP, within * HOP))
  const onsets: number[] = []
  for (const frame of found.sort((a, b) => a - b))
    if (frame >= (onsets.at(-1) ?? -Infinity) + NEAR_SECONDS * tape.rate) onsets.push(frame)
  return onsets
}
