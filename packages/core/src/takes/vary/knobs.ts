/** What variations may move in a patch, and between which values. */
import { CATALOGUE } from '../../catalogue.ts'
import { kindOf } from '../../describe/kinds/index.ts'
import type { ParamDescription } from '../../describe/types.ts'
import type { Way } from '../../describe/ways.ts'
import { isFormula } from '../../patch/formulas.ts'
import { patchIndex } from '../../patch/index.ts'
import { ownership } from '../../patch/macros.ts'
import { setValueOf, targetOf, wayOf, wholeRange } from '../../patch/targets.ts'
import type { ParamValue, Patch, PatchModule, VaryLimit } from '../../patch/types.ts'
import { own } from '../../units/own.ts'

/** Something that may be moved. */
export interface Knob {
  readonly target: string
  readonly value: ParamValue
  readonly spread: number
  /** From its lowest to its highest value, in its modulation unit; undefined where it takes words. */
  readonly way: Way | undefined
  /** Words it may take. */
  readonly words: readonly ParamValue[]
}

/** Share of a range on both sides, and how likely a target is moved, where nothing is said. */
export const SPREAD = 0.2,
  CHANCE = 0.5

const PITCH_UNITS: ReadonlySet<string> = new Set(['st', 'ct', 'oct'])

/** Does a parameter stay as it is while no limit names it? */
const staysPut = ({ type }: PatchModule, param: ParamDescription): boolean => {
  const stays = CATALOGUE.get(type)?.description.stays
  return (
    stays === 'all' ||
    stays?.includes(param.name) === true ||
    (param.kind === 'number' && PITCH_UNITS.has(param.unit))
  )
}

const wordsOf = (param: ParamDescription): readonly ParamValue[] =>
  param.kind === 'choice' ? param.choices : param.kind === 'switch' ? [false, true] : []

const knobOf = (patch: Patch, target: string, limit: VaryLimit, spread: number): Knob | undefined => {
  const found = targetOf(patch, target),
    value = setValueOf(patch, target)
  if (value === undefined || limit.lock === true || isFormula(value)) return undefined
  // Of cables it is what is set that stands in the middle, unless both ends are said.
  const amount = Math.max(Math.abs(Number(value)), 1e-3)
  const [low, high] = found.kind === 'cable' ? [-2 * amount, 2 * amount] : wholeRange(found)
  const words = limit.choices ?? (found.kind === 'param' ? wordsOf(found.param) : [])
  const way = words.length > 0 ? undefined : wayOf(found, limit.low ?? low, limit.high ?? high)
  return {
    target,
    value,
    spread: limit.spread ?? spread,
    way,
    words,
  }
}

/** Targets that are moved though no limit names them. */
const free = (patch: Patch): string[] => {
  const { owner } = ownership(patch)
  const params = patchIndex(patch).modules.flatMap(({ module }) => {
    const entry = CATALOGUE.get(module.type)
    return [...(entry?.params.values() ?? [])]
      .filter(
        (param) =>
          param.setOnly !== true &&
          kindOf(param).isMovable &&
          !staysPut(module, param) &&
          !isFormula(own(module.params, param.name)),
      )
      .map((param) => `${module.id}.${param.name}`)
  })
  const macros = (patch.macros ?? []).filter(({ locked }) => locked !== true).map(({ id }) => `macro:${id}`)
  return [...params, ...macros].filter((target) => !owner.has(target))
}

/**
 * Everything variations may move, in the order of the patch: what a limit names, and all else but pitch, the level of the
 * output, what is set only, formulas, and what a macro moves.
 */
export const knobsOf = (patch: Patch, spread = patch.vary?.spread ?? SPREAD): readonly Knob[] => {
  const limits = new Map(Object.entries(patch.vary?.limits ?? {}))
  const { owner } = ownership(patch),
    targets = new Set([...free(patch), ...[...limits.keys()].filter((target) => !owner.has(target))])
  return [...targets].flatMap((target) => {
    const knob = knobOf(patch, target, limits.get(target) ?? {}, spread)
    return knob &&
      (knob.way || knob.words.length > 1 || (knob.words.length === 1 && knob.words[0] !== knob.value))
      ? [knob]
      : []
  })
}
