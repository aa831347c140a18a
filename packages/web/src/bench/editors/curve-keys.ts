/** Keys on a point of a drawn curve. */
import { movePoint, type Point, spotOf } from '@ypsilon/core'
import { bendPoint } from '@ypsilon/core/describe/redrawing.ts'
import type { Drawn } from './curve-hand.ts'

const STEP = 0.01,
  FINE = 0.002,
  BEND = 0.05

interface Key {
  readonly key: string
  readonly altKey: boolean
  readonly shiftKey: boolean
}

const WAYS: ReadonlyMap<string, readonly [number, number]> = new Map([
  ['ArrowRight', [1, 0]],
  ['ArrowLeft', [-1, 0]],
  ['ArrowUp', [0, 1]],
  ['ArrowDown', [0, -1]],
])

/** Points as an arrow leaves them: moved by a hundredth, finely with Shift, by a line of the grid; bent with Alt. */
export const nudged = (
  { points, spans, grid, name }: Drawn,
  index: number,
  { key, altKey, shiftKey }: Key,
): { readonly points: readonly Point[]; readonly words: string } | undefined => {
  const way = WAYS.get(key)
  if (!way) return undefined
  const [across, up] = way
  if (altKey) {
    const curve = (points[index]!.curve ?? 0) + BEND * (across + up) * (shiftKey ? 0.2 : 1)
    return { points: bendPoint(points, index, curve), words: `Bend ${name}` }
  }
  const step = (lines: number): number => (shiftKey ? FINE : lines > 0 ? 1 / lines : STEP)
  const [x, y] = spotOf(points[index]!, spans)
  const next = [x + across * step(grid.across), y + up * step(grid.up)] as const
  return { points: movePoint(points, index, next, spans), words: `Move point ${index + 1} of ${name}` }
}
