/** How far a sound is from its key, for correcting it: exact arithmetic, the same on every machine. */
import { exactExp2, exactLog } from '../../units/exact.ts'
import { C4_HZ } from '../../units/units.ts'

/** Periods of the key that are compared: octaves below it, up to two, repeat after them as well. */
const PERIODS = 4
/** What is further away is meant to be. */
const MOST_CENTS = 100
/** A sound must repeat this well to have a pitch. */
const CLEAR = 0.85
/** Frames that are compared, in the loudest stretch. */
const LONGEST = 8192
/** The longer the lag, the finer the pitch: this long at the most. */
const MOST_LAG_SECONDS = 0.25

const centsOf = (ratio: number): number => (1200 / Math.LN2) * exactLog(ratio)

/** How well a stretch repeats after a lag: 1 for the same again. */
const repeatAt = (x: Float32Array, from: number, size: number, lag: number): number => {
  let both = 0,
    energy = 0
  for (let n = from; n < from + size; n += 1) {
    const one = x[n] ?? 0,
      other = x[n + lag] ?? 0
    both += one * other
    energy += one * one + other * other
  }
  return energy > 0 ? (2 * both) / energy : 0
}

/** The best repeat between two lags, placed between frames by a parabola; undefined where none is clear. */
const bestLag = (
  x: Float32Array,
  from: number,
  size: number,
  low: number,
  high: number,
): number | undefined => {
  let best = -1,
    most = CLEAR
  const at = (lag: number): number => repeatAt(x, from, size, lag)
  for (let lag = low; lag <= high; lag += 1) {
    const now = at(lag)
    if (now <= most) continue
    most = now
    best = lag
  }
  if (best < 0) return undefined
  const before = at(best - 1),
    behind = at(best + 1),
    bend = before - 2 * most + behind
  return best + (bend < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (before - behind)) / bend)) : 0)
}

/** Where the loudest stretch of a sound begins. */
const loudestAt = (x: Float32Array, size: number): number => {
  let at = 0,
    most = -1
  for (let from = 0; from === 0 || from + size <= x.length; from += size >> 1) {
    let sum = 0
    for (let n = from; n < Math.min(x.length, from + size); n += 1) sum += x[n]! * x[n]!
    if (sum <= most) continue
    most = sum
    at = from
  }
  return at
}

/**
 * Cents by which a sound is above its key or one an octave apart from it, −100…100; undefined where it has no clear pitch
 * near that.
 */
export const centsFrom = (x: Float32Array, rate: number, note: number): number | undefined => {
  const period = rate / (C4_HZ * exactExp2((note - 60) / 12)),
    size = Math.min(LONGEST, x.length >> 1)
  const from = loudestAt(x, size)
  const reach = exactExp2(MOST_CENTS / 1200)
  let periods = PERIODS
  let lag = bestLag(
    x,
    from,
    size,
    Math.floor((periods * period) / reach),
    Math.ceil(periods * period * reach),
  )
  if (lag === undefined || from + size + lag > x.length) return undefined
  // Twice as far each time: the place is known to a fraction of a frame, and so is the next.
  while (2 * lag < MOST_LAG_SECONDS * rate && from + size + 2 * lag < x.length) {
    const next = bestLag(x, from, size, Math.floor(2 * lag) - 2, Math.ceil(2 * lag) + 2)
    if (next === undefined) break
    periods *= 2
    lag = next
  }
  const cents = -centsOf(lag / (periods * period))
  return Math.abs(cents) <= MOST_CENTS ? cents : undefined
}
