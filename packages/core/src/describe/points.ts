import { exactExp } from '../units/exact.ts'

/** A point of a drawn curve and the bend of the stretch behind it. Times of contours stand in t and v. */
export interface Point {
  readonly x?: number
  readonly y?: number
  readonly t?: number
  readonly v?: number
  readonly curve?: number
}

const FLAT = 1e-6

/** The curve of the contract, exact on every machine. */
export const exactCurve = (x: number, curve: number): number => {
  const k = 6 * curve
  return Math.abs(k) < FLAT ? x : (1 - exactExp(-k * x)) / (1 - exactExp(-k))
}

/** y of a drawn curve at x: level beyond its ends. */
export const curveValue = (
  points: readonly { readonly x: number; readonly y: number; readonly curve: number }[],
  x: number,
): number => {
  const next = points.findIndex((point) => point.x > x)
  if (next === 0) return points[0]!.y
  if (next < 0) return points.at(-1)?.y ?? 0
  const a = points[next - 1]!,
    b = points[next]!
  return a.y + (b.y - a.y) * exactCurve((x - a.x) / (b.x - a.x), a.curve)
}

export const sortedPoints = (points: readonly Point[]): { x: number; y: number; curve: number }[] =>
  points
    .map((point) => ({ x: point.x ?? point.t ?? 0, y: point.y ?? point.v ?? 0, curve: point.curve ?? 0 }))
    .sort((a, b) => a.x - b.x)

/** `count` + 1 evenly spaced values from low to high, and the last one again, for reading between points. */
export const curveTable = (
  points: readonly Point[],
  low: number,
  high: number,
  count: number,
): Float32Array => {
  const sorted = sortedPoints(points)
  return Float32Array.from({ length: count + 2 }, (_, i) =>
    curveValue(sorted, low + ((high - low) * Math.min(i, count)) / count),
  )
}
