import type { Point } from './routing.ts'

/** A gesture that is under way. */
export interface Gesture {
  readonly move: (point: Point, event: PointerEvent) => void
  readonly drop: (point: Point, event: PointerEvent) => void
  readonly giveUp: () => void
}
