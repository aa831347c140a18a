/** What a probe shows, as data: axes, curves, marks and numbers. Drawing, files and comparing all read the same. */

export interface Axis {
  /** `Hz`, `s`, `dB`, `ct`, `rad`; empty for plain numbers. */
  readonly unit: string
  readonly scale: 'linear' | 'log'
  readonly from: number
  readonly to: number
  /** Instead of numbers, of bars: what stands at 0.5, 1.5, … */
  readonly names?: readonly string[]
}

export interface Curve {
  readonly name: string
  /** Places along the axis across, rising (of `dots`: in any order). */
  readonly x: Float32Array
  readonly y: Float32Array
  readonly style: 'line' | 'bars' | 'dots'
}

/** `folded`: a sideband below 0 Hz or above half the rate, where it comes back from there. */
export type MarkKind = 'peak' | 'carrier' | 'sum' | 'difference' | 'folded'

/** A place on a curve with words. */
export interface Mark {
  readonly kind: MarkKind
  readonly x: number
  readonly y: number
  readonly words: string
}

/** A number that was measured: null where the sound has none. */
export interface Reading {
  readonly name: string
  readonly value: number | null
  readonly unit: string
}

/** Levels over time (across) and frequency (up), 0…255 between the foot and the top of `range`. */
export interface Picture {
  readonly columns: number
  readonly rows: number
  /** Column by column, the lowest row first. */
  readonly levels: Uint8Array
  /** Decibels that 0 and 255 stand for. */
  readonly range: readonly [number, number]
}

export interface Plot {
  readonly across: Axis
  readonly up: Axis
  readonly curves: readonly Curve[]
  readonly marks: readonly Mark[]
  readonly readings: readonly Reading[]
  /** What is read from afar: the note of a tuner. */
  readonly headline?: string
  readonly picture?: Picture
}

/** Index of the last place that is not above `at`; −1 before the first. */
export const placeBefore = (x: Float32Array, at: number): number => {
  let low = 0,
    high = x.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (x[middle]! <= at) low = middle + 1
    else high = middle
  }
  return low - 1
}

/** Height of a curve at a place, by a straight line between its points; undefined beside it. */
export const heightAt = ({ x, y }: Pick<Curve, 'x' | 'y'>, at: number): number | undefined => {
  const before = placeBefore(x, at)
  if (before < 0 || (before === x.length - 1 && x[before]! < at)) return undefined
  const next = Math.min(before + 1, x.length - 1),
    way = x[next]! - x[before]!
  const share = way > 0 ? (at - x[before]!) / way : 0
  return y[before]! + share * (y[next]! - y[before]!)
}

/** Levels in decibels of a linear row, no lower than `floor`. */
export const levelsOf = (values: ArrayLike<number>, floor: number): Float32Array =>
  Float32Array.from(values, (value) => Math.max(floor, 20 * Math.log10(Math.max(Math.abs(value), 1e-12))))

export const finite = (value: number | undefined): number | null =>
  value !== undefined && Number.isFinite(value) ? value : null
