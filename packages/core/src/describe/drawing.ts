/** Points of drawn curves in their pictures. */
import type { PictureHandle, Spans } from './types.ts'
import type { Point } from './points.ts'

/** A place in the picture: 0…1 from the left, 0…1 from the foot. */
export type Spot = readonly [x: number, y: number]

export const within = (value: number, low: number, high: number): number =>
  Math.min(high, Math.max(low, value))

/** Where a point stands in the picture; beyond 0…1 where it is drawn outside. */
export const spotOf = (point: Point, { left, right, foot, top }: Spans): Spot => [
  ((point.x ?? point.t ?? left) - left) / (right - left),
  ((point.y ?? point.v ?? 0) - foot) / (top - foot),
]

/** A point at a spot, with what else it carries. */
export const pointAt = (
  [x, y]: Spot,
  { across, up, left, right, foot, top }: Spans,
  others: object = {},
): Point & object => ({
  ...others,
  [across]: left + x * (right - left),
  [up]: foot + y * (top - foot),
})

/** A point put at a spot: the ends stay at their sides, the others between their neighbours. */
export const movePoint = (
  points: readonly Point[],
  index: number,
  [x, y]: Spot,
  spans: Spans,
): readonly Point[] => {
  const at = (n: number): number | undefined =>
    points[n] === undefined ? undefined : spotOf(points[n], spans)[0]
  const isEnd = index === 0 || index === points.length - 1
  const place = isEnd ? at(index)! : within(x, at(index - 1) ?? 0, at(index + 1) ?? 1)
  return points.map((point, n) => (n === index ? pointAt([place, within(y, 0, 1)], spans, point) : point))
}

/** A handle for every point, for pictures. */
export const pointHandles = (points: readonly Point[], spans: Spans): readonly PictureHandle[] =>
  points.map((point, n) => ({
    name: `Point ${n + 1}`,
    at: spotOf(point, spans),
    shows: [],
    moved: (x: number, y: number) => ({ data: { points: movePoint(points, n, [x, y], spans) } }),
  }))
