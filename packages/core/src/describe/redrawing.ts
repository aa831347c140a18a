/** Drawn curves as hands change them: points added, taken away, stretches bent, shapes to begin from. All of it pure. */
import { pointAt, type Spot, spotOf, within } from './drawing.ts'
import { curveValue, type Point, sortedPoints } from './points.ts'
import type { Spans } from './types.ts'

/** What a curve is at a place across, in the picture. */
export const heightOf = (points: readonly Point[], spans: Spans, x: number): number => {
  const across = spans.left + x * (spans.right - spans.left)
  return (curveValue(sortedPoints(points), across) - spans.foot) / (spans.top - spans.foot)
}

/** One more point, where it comes by its place; the stretch it is put in keeps its bend on both sides. */
export const addPoint = (
  points: readonly Point[],
  [x, y]: Spot,
  spans: Spans,
): { readonly points: readonly Point[]; readonly index: number } => {
  const next = points.findIndex((point) => spotOf(point, spans)[0] > x),
    index = next < 0 ? points.length : next
  const before = points[index - 1]
  const fresh = pointAt(
    [within(x, 0, 1), within(y, 0, 1)],
    spans,
    before?.curve ? { curve: before.curve } : {},
  )
  return { points: [...points.slice(0, index), fresh, ...points.slice(index)], index }
}

/** Without a point; the ends stay. */
export const removePoint = (points: readonly Point[], index: number): readonly Point[] =>
  index <= 0 || index >= points.length - 1 ? points : points.filter((_, n) => n !== index)

/** The stretch behind a point bent: −1…1, 0 is straight. */
export const bendPoint = (points: readonly Point[], index: number, curve: number): readonly Point[] =>
  points.map((point, n) => {
    if (n !== index) return point
    const { curve: _, ...straight } = point
    const bend = within(curve, -1, 1)
    return Math.abs(bend) < 1e-3 ? straight : { ...point, curve: bend }
  })

/** The nearest lines of a grid of so many steps across and up; 0 steps hold nothing. */
export const snapped = ([x, y]: Spot, across: number, up: number): Spot => [
  across > 0 ? Math.round(x * across) / across : x,
  up > 0 ? Math.round(y * up) / up : y,
]

/** Shapes to begin from: spots and the bend behind them. */
type Shape = readonly (readonly [x: number, y: number, curve?: number])[]

export const SHAPES: ReadonlyMap<string, Shape> = new Map<string, Shape>([
  [
    'rise',
    [
      [0, 0],
      [1, 1],
    ],
  ],
  [
    'fall',
    [
      [0, 1],
      [1, 0],
    ],
  ],
  [
    'fast rise',
    [
      [0, 0, 0.6],
      [1, 1],
    ],
  ],
  [
    'slow rise',
    [
      [0, 0, -0.6],
      [1, 1],
    ],
  ],
  [
    'pluck',
    [
      [0, 0],
      [0.02, 1, 0.7],
      [1, 0],
    ],
  ],
  [
    'swell',
    [
      [0, 0, -0.4],
      [0.6, 1, 0.5],
      [1, 0],
    ],
  ],
  [
    'arch',
    [
      [0, 0, 0.4],
      [0.5, 1, -0.4],
      [1, 0],
    ],
  ],
  [
    'bend in the middle',
    [
      [0, 0, -0.5],
      [0.5, 0.5, 0.5],
      [1, 1],
    ],
  ],
  [
    'four steps',
    [
      [0, 0],
      [0.25, 0],
      [0.25, 1 / 3],
      [0.5, 1 / 3],
      [0.5, 2 / 3],
      [0.75, 2 / 3],
      [0.75, 1],
      [1, 1],
    ],
  ],
])

/** A shape as the points of a picture; its foot is at `zero`, a share of the height. */
export const pointsOfShape = (shape: Shape, spans: Spans, zero = 0): readonly Point[] =>
  shape.map(([x, y, curve]) =>
    pointAt([x, zero + y * (1 - zero)], spans, curve === undefined ? {} : { curve }),
  )
