/** How left and right go together: a picture turned by 45°, so that mono stands upright, and its numbers. */
import { finite, type Plot, type Reading } from './plot.ts'
import type { Tape } from './tape.ts'

/** Frames that are drawn, and that are measured. */
const DRAWN = 1536,
  MEASURED_SECONDS = 0.4

/**
 * Correlation (−1 … 1), balance in decibels (above 0: the right is louder) and how far what differs lies below what is
 * common. null where there is nothing to compare.
 */
export const stereoReadings = (left: Float32Array, right: Float32Array): readonly Reading[] => {
  let ll = 0,
    rr = 0,
    lr = 0
  for (let i = 0; i < left.length; i += 1) {
    ll += left[i]! ** 2
    rr += right[i]! ** 2
    lr += left[i]! * right[i]!
  }
  const mid = (ll + rr + 2 * lr) / 2,
    side = (ll + rr - 2 * lr) / 2
  return [
    { name: 'correlation', value: ll * rr > 0 ? lr / Math.sqrt(ll * rr) : null, unit: '' },
    { name: 'balance', value: finite(10 * Math.log10(rr / ll)), unit: 'dB' },
    { name: 'side', value: finite(10 * Math.log10(side / mid)), unit: 'dB' },
  ]
}

export const stereoPlot = (tape: Tape, isWhole = false): Plot => {
  const sides = tape.last(isWhole ? tape.frames : Math.round(MEASURED_SECONDS * tape.rate))
  const left = sides[0] ?? new Float32Array(),
    right = sides[1] ?? left
  const from = Math.max(0, left.length - DRAWN),
    l = left.subarray(from),
    r = right.subarray(from)
  let size = 0.05
  for (let i = 0; i < l.length; i += 1) size = Math.max(size, Math.abs(l[i]!), Math.abs(r[i]!))
  const top = Math.SQRT2 * size
  return {
    across: { unit: '', scale: 'linear', from: -top, to: top },
    up: { unit: '', scale: 'linear', from: -top, to: top },
    curves: [
      {
        name: 'middle over side',
        x: Float32Array.from(l, (x, i) => (r[i]! - x) * Math.SQRT1_2),
        y: Float32Array.from(l, (x, i) => (r[i]! + x) * Math.SQRT1_2),
        style: 'dots',
      },
    ],
    marks: [],
    readings: stereoReadings(left, right),
  }
}
