/** Sizes that panels may have, in pixels. */
import type { Sized } from './workspace-types.ts'

export const SIZES: Readonly<Record<Sized, readonly [least: number, usual: number, most: number]>> = {
  parts: [180, 220, 360],
  inspector: [240, 288, 480],
  dock: [120, 184, 480],
  editor: [160, 288, 480],
}
