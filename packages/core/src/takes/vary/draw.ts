/** Variations by chance, and children of several patches: values, the same for the same seed. */
import { seedOf } from '../../compile/compile.ts'
import { CATALOGUE } from '../../catalogue.ts'
import { ownership } from '../../patch/macros.ts'
import { patchIndex } from '../../patch/index.ts'
import { meanOf, setValueOf, targetOf } from '../../patch/targets.ts'
import type { ParamValue, Patch } from '../../patch/types.ts'
import { Dice } from '../../units/dice.ts'
import type { VariationValues } from '../kit/plan.ts'
import type { Knob } from './knobs.ts'

/** A value of a knob near the one it has: anywhere within its spread on both sides, held within its range. */
const moved = ({ value, spread, way, words }: Knob, dice: Dice): ParamValue => {
  if (!way) return dice.of(words)
  const at = way.shareOf(value),
    low = Math.max(0, at - spread),
    high = Math.min(1, at + spread)
  return way.at(dice.between(low, high))
}

/**
 * The variation of a number: each knob is moved with a chance, words as often as their spread says of that. One at least is
 * moved, where there is any.
 */
export const drawn = (
  knobs: readonly Knob[],
  seed: number,
  number: number,
  chance: number,
): VariationValues => {
  const dice = new Dice(seedOf(seed, `variation ${number}`))
  const values = knobs.flatMap((knob): [string, ParamValue][] => {
    const isMoved = dice.chance(knob.way ? chance : chance * Math.max(knob.spread, 0.05)),
      value = moved(knob, dice)
    return isMoved && value !== knob.value ? [[knob.target, value]] : []
  })
  if (values.length > 0 || knobs.length === 0) return values
  const knob = dice.of(knobs)
  return [[knob.target, moved(knob, dice)]]
}

/** Everything that has a value. */
const targetsOf = (patch: Patch): string[] => {
  const { modules, cable, macro } = patchIndex(patch)
  return [
    ...modules.flatMap(({ module }) =>
      [...(CATALOGUE.get(module.type)?.params.keys() ?? [])].map((name) => `${module.id}.${name}`),
    ),
    ...[...cable.keys()].map((id) => `cable:${id}`),
    ...[...macro.keys()].map((id) => `macro:${id}`),
  ]
}

/** Targets whose values several patches may share out among their children: set, not owned by a macro, in all of them. */
const sharedTargets = (parents: readonly Patch[]): string[] => {
  const [first, ...others] = parents as [Patch, ...Patch[]]
  const owned = parents.map((patch) => ownership(patch).owner)
  return targetsOf(first).filter(
    (target) =>
      owned.every((owner) => !owner.has(target)) &&
      others.every((patch) => {
        const found = targetOf(patch, target),
          own = targetOf(first, target)
        return (
          found.kind === own.kind &&
          (found.kind !== 'param' || (own.kind === 'param' && found.module.type === own.module.type))
        )
      }),
  )
}

/** Targets in which parents differ, with the value of each. */
export const differing = (
  parents: readonly Patch[],
): readonly { readonly target: string; readonly values: readonly ParamValue[] }[] =>
  sharedTargets(parents).flatMap((target) => {
    const values = parents.map((patch) => setValueOf(patch, target)!)
    return values.every((value) => value === values[0]) ? [] : [{ target, values }]
  })

/**
 * The child of a number: a patch like the first of its parents, with every value from one of them, or, every other time,
 * between two of them.
 */
export const bred = (
  parents: readonly Patch[],
  differences: ReturnType<typeof differing>,
  seed: number,
  number: number,
): VariationValues => {
  const dice = new Dice(seedOf(seed, `child ${number}`))
  const [first] = parents as [Patch]
  return differences.flatMap(({ target, values }): [string, ParamValue][] => {
    const one = dice.of(values),
      other = dice.of(values),
      share = dice.unit(),
      isMixed = dice.chance(0.5)
    const value =
      isMixed && typeof one === 'number' && typeof other === 'number' && one !== other
        ? meanOf(targetOf(first, target), [
            [one, 1 - share],
            [other, share],
          ])
        : one
    return value === values[0] ? [] : [[target, value]]
  })
}
