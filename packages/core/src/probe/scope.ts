/** A wave over time: as it comes, from a rise on, or locked to its pitch. */
import { partialAt, pitchOf } from '../analysis/pitch.ts'
import { loudestChannel } from '../analysis/channels.ts'
import { type Curve, finite, type Plot } from './plot.ts'
import type { ProbeSettings } from './settings.ts'
import type { Tape } from './tape.ts'

/** Points a curve has at most; of more frames the lowest and highest of every stretch are drawn. */
const MOST_POINTS = 4096
/** Frames in which a period is looked for, and how often. */
const PITCH_FRAMES = 8192,
  PITCH_SECONDS = 0.1
/** How far before the newest window a rise is looked for. */
const SEARCH_SECONDS = 0.05
const SIDES = ['left', 'right'] as const

export const sideName = (side: number, sides: number): string => (sides < 2 ? 'signal' : SIDES[side]!)

/** Lowest and highest sample. */
const extremes = (x: Float32Array): readonly [number, number] => {
  let low = Infinity,
    high = -Infinity
  for (const y of x) {
    if (y < low) low = y
    if (y > high) high = y
  }
  return x.length > 0 ? [low, high] : [0, 0]
}

/** Where the last whole window begins with a rise through the middle of the wave; undefined where there is none. */
const riseBefore = (x: Float32Array, span: number, search: number): number | undefined => {
  const [low, high] = extremes(x.subarray(Math.max(0, x.length - span - search)))
  // What goes through 0 is met there, a gate or a pitch in the middle of its steps.
  const level = low < 0 && high > 0 ? 0 : (low + high) / 2
  if (!(high - low > 1e-9)) return undefined
  for (let i = x.length - span; i > Math.max(0, x.length - span - search); i -= 1)
    if (x[i - 1]! <= level && x[i]! > level) return i - (x[i]! - level) / (x[i]! - x[i - 1]!)
  return undefined
}

/** A stretch of a signal as a curve: `start` may lie between two samples, places count from 0. */
export const waveOf = (x: Float32Array, start: number, span: number, rate: number, name: string): Curve => {
  const first = Math.ceil(start),
    count = Math.max(0, Math.min(x.length - first, Math.floor(span) + 1))
  if (count <= MOST_POINTS) {
    const place = Float32Array.from({ length: count }, (_, i) => (first + i - start) / rate)
    return { name, x: place, y: x.slice(first, first + count), style: 'line' }
  }
  const columns = MOST_POINTS / 2,
    places = new Float32Array(MOST_POINTS),
    heights = new Float32Array(MOST_POINTS)
  for (let column = 0; column < columns; column += 1) {
    const from = first + Math.floor((count * column) / columns),
      to =
        first +
        Math.max(Math.floor((count * column) / columns) + 1, Math.floor((count * (column + 1)) / columns))
    const [low, high] = extremes(x.subarray(from, to)),
      isRising = x[to - 1]! >= x[from]!
    places.fill((from - start) / rate, 2 * column, 2 * column + 2)
    heights[2 * column] = isRising ? low : high
    heights[2 * column + 1] = isRising ? high : low
  }
  return { name, x: places, y: heights, style: 'line' }
}

/** Heights are no less than this: what is quieter is as good as silent, and its numbers would not fit. */
const QUIETEST = 0.01

/** The next round number at or above a height: 1, 2 or 5 of a power of ten. */
export const roundAbove = (value: number): number => {
  const power = 10 ** Math.floor(Math.log10(Math.max(value, 1e-6)))
  return power * ([1, 2, 5, 10].find((step) => step * power >= value * (1 - 1e-6)) ?? 10)
}

/** Heights of what is shown: around 0 where it goes below, from 0 else, kept while the wave fits in and fills a third. */
const heightsOf = (curves: readonly Curve[], before: readonly [number, number] | undefined) => {
  let low = 0,
    high = 0
  for (const { y } of curves) {
    const [least, most] = extremes(y)
    low = Math.min(low, least)
    high = Math.max(high, most)
  }
  const size = Math.max(-low, high)
  const isFit = before && before[1] >= size && before[1] <= 4 * size && before[0] < 0 === low < 0
  if (isFit) return before
  const top = roundAbove(Math.max(size, QUIETEST))
  return [low < 0 ? -top : 0, top] as const
}

export class Scope {
  private pitch: number | undefined
  private pitchedAt = -Infinity
  private heights: readonly [number, number] | undefined

  private hertz(tape: Tape): number | undefined {
    if (tape.position - this.pitchedAt >= PITCH_SECONDS * tape.rate || tape.position < this.pitchedAt) {
      this.pitch = pitchOf(tape.last(PITCH_FRAMES), tape.rate)
      this.pitchedAt = tape.position
    }
    return this.pitch
  }

  /** Begin and length in samples of what is shown of a signal. */
  private place(
    x: Float32Array,
    settings: ProbeSettings,
    tape: Tape,
  ): readonly [start: number, span: number] {
    const { rate } = tape,
      wanted = Math.min(settings.windowSeconds * rate, x.length - 1),
      free = [Math.max(0, x.length - 1 - wanted), wanted] as const
    if (settings.lock === 'free') return free
    const hz = settings.lock === 'pitch' ? this.hertz(tape) : undefined
    if (hz === undefined) {
      const rise = riseBefore(x, Math.ceil(wanted) + 1, Math.round(SEARCH_SECONDS * rate) + Math.ceil(wanted))
      return rise === undefined ? free : [rise, wanted]
    }
    const period = rate / hz,
      span = Math.max(1, Math.round(wanted / period)) * period
    if (span + period > x.length - 1) return free
    // From where the fundamental rises through 0: every picture begins there.
    const from = Math.floor(x.length - 1 - span - period)
    const { phase } = partialAt(x, from, Math.floor(span), hz, rate)
    // A cosine's phase: it rises through 0 a quarter before its top.
    const turns = -(phase / (2 * Math.PI)) - 0.25
    return [from + (turns - Math.floor(turns)) * period, span]
  }

  look(tape: Tape, settings: ProbeSettings): Plot {
    const { rate } = tape
    const frames = Math.ceil((2 * settings.windowSeconds + SEARCH_SECONDS + 0.06) * rate) + 2
    const sides = tape.last(frames)
    const [start, span] = sides.length > 0 ? this.place(loudestChannel(sides), settings, tape) : [0, 1]
    const curves = sides.map((x, side) => waveOf(x, start, span, rate, sideName(side, sides.length)))
    const [from, to] = heightsOf(curves, this.heights)
    this.heights = [from, to]
    const seconds =
      settings.lock === 'pitch' && this.pitch !== undefined ? span / rate : settings.windowSeconds
    return {
      across: { unit: 's', scale: 'linear', from: 0, to: Math.max(seconds, 1 / rate) },
      up: { unit: '', scale: 'linear', from, to },
      curves,
      marks: [],
      readings:
        settings.lock === 'pitch' ? [{ name: 'locked to', value: finite(this.pitch), unit: 'Hz' }] : [],
    }
  }
}
