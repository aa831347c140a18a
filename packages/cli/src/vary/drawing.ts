/** How variations are drawn: within a patch's limits, or bred from several. */
import type { Patch } from '@ypsilon/core'
import type { VariationValues } from '@ypsilon/core/takes/kit/plan.ts'
import { bred, differing, drawn } from '@ypsilon/core/takes/vary/draw.ts'
import { CHANCE, knobsOf } from '@ypsilon/core/takes/vary/knobs.ts'
import { BadInput } from '../bad-input.ts'

interface How {
  readonly seed: number
  readonly spread?: number | undefined
  readonly chance?: number | undefined
}

/** The values of a number; bad input, at a place, where there is nothing to draw from. */
export const drawing = (
  patches: readonly Patch[],
  place: string,
  { seed, spread, chance }: How,
): ((number: number) => VariationValues) => {
  const [first] = patches as [Patch]
  if (patches.length > 1) {
    const differences = differing(patches)
    if (differences.length === 0)
      throw new BadInput([`${place}: they differ in nothing that a child could have of either`])
    return (number) => bred(patches, differences, seed, number)
  }
  const knobs = knobsOf(first, spread)
  if (knobs.length === 0)
    throw new BadInput([`${place}: there is nothing to vary: everything is locked, or moved by a macro`])
  return (number) => drawn(knobs, seed, number, chance ?? first.vary?.chance ?? CHANCE)
}
