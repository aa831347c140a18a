/** Everything that stands on the chart. */
import { marksOf, type Patch } from '@ypsilon/core'
import { boxOfRect } from './chart/geometry.ts'
import type { Box } from './chart/routing.ts'
import type { Scene } from './chart/scene.ts'

/** Frames and notes. */
export const markBoxes = (patch: Patch): Box[] => {
  const { frames, notes } = marksOf(patch)
  return [...frames, ...notes].map(boxOfRect)
}

/** Cards, frames and notes. */
export const wholeBoxes = (patch: Patch, scene: Scene): Box[] => [...scene.boxes(), ...markBoxes(patch)]
