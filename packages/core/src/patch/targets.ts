/** What a target (`id.param`, `cable:ID`, `macro:ID`) is, and the way between two of its values. */
import { CATALOGUE, type Catalogue } from '../catalogue.ts'
import { isSignalParam, kindOf } from '../describe/kinds/index.ts'
import { clampTo, octavesFrom } from '../describe/kinds/number.ts'
import { paramAt } from '../describe/params.ts'
import type { ParamDescription } from '../describe/types.ts'
import { plainWay, type Way } from '../describe/ways.ts'
import { exactExp, exactLog } from '../units/exact.ts'
import { own } from '../units/own.ts'
import { isFormula } from './formulas.ts'
import { patchIndex } from './index.ts'
import type { ParamValue, Patch, PatchModule } from './types.ts'
import { MOST_AMOUNT, numberIn, valueFault } from './values.ts'
import { splitTarget } from './walk.ts'

export type { Way } from '../describe/ways.ts'

export type Target =
  | { readonly kind: 'param'; readonly param: ParamDescription; readonly module: PatchModule }
  | { readonly kind: 'cable' | 'macro' | 'placeholder' }
  | { readonly kind: 'none'; readonly message: string }

const known = new WeakMap<Patch, Map<string, Target>>()

/** What a target is in a patch: looked up once. */
export const targetOf = (patch: Patch, target: string, catalogue: Catalogue = CATALOGUE): Target => {
  if (catalogue !== CATALOGUE) return lookedUp(patch, target, catalogue)
  let targets = known.get(patch)
  if (!targets) {
    targets = new Map()
    known.set(patch, targets)
  }
  let found = targets.get(target)
  if (!found) {
    found = lookedUp(patch, target, catalogue)
    targets.set(target, found)
  }
  return found
}

const lookedUp = (patch: Patch, target: string, catalogue: Catalogue): Target => {
  const index = patchIndex(patch)
  const named = (kind: 'cable' | 'macro', id: string): Target =>
    index[kind].has(id)
      ? { kind }
      : { kind: 'none', message: `there is no ${kind}${kind === 'cable' ? ' with the id' : ''} "${id}"` }
  if (target.startsWith('cable:')) return named('cable', target.slice(6))
  if (target.startsWith('macro:')) return named('macro', target.slice(6))
  const [id, name] = splitTarget(target) ?? []
  if (id === undefined || name === undefined)
    return { kind: 'none', message: `"${target}" does not name a parameter (module.param)` }
  const module = index.module.get(id)
  if (!module) return { kind: 'none', message: `there is no module "${id}"` }
  const entry = catalogue.get(module.type)
  if (!entry) return { kind: 'placeholder' }
  const param = entry.params.get(name)
  return param
    ? { kind: 'param', param: paramAt(param, module.params), module }
    : { kind: 'none', message: `${module.type} has no parameter "${name}"` }
}

/** What is wrong with a value for a target; undefined when nothing is. */
export const targetValueFault = (target: Target, value: unknown): string | undefined => {
  switch (target.kind) {
    case 'none':
      return target.message
    case 'placeholder':
      return undefined
    case 'cable':
      return numberIn(value, -MOST_AMOUNT, MOST_AMOUNT)
    case 'macro':
      return numberIn(value, 0, 1)
    case 'param':
      return valueFault(target.param, value)
  }
}

/** What a target is set to in a patch, defaults filled in. */
export const setValueOf = (patch: Patch, target: string): ParamValue | undefined => {
  const index = patchIndex(patch)
  if (target.startsWith('cable:')) {
    const cable = index.cable.get(target.slice(6))
    return cable && (cable.amount ?? 1)
  }
  if (target.startsWith('macro:')) return index.macro.get(target.slice(6))?.value
  const found = targetOf(patch, target)
  if (found.kind !== 'param') return undefined
  return own(found.module.params, found.param.name) ?? found.param.default
}

/** Why something that moves cannot move a target; undefined when it can. */
export const unmovable = (target: Target, name: string): string | undefined => {
  if (target.kind === 'none') return target.message
  if (target.kind !== 'param') return undefined
  if (target.param.setOnly || !kindOf(target.param).isMovable)
    return `${name} is set only: it cannot be moved while it plays`
  return isSignalParam(target.param) && isFormula(own(target.module.params, target.param.name))
    ? `${name} holds a formula; let the formula name what is to move it`
    : undefined
}

/** The way of a target between two values, in the target's unit; undefined for what has no values between. */
export const wayOf = (target: Target, from: number, to: number): Way | undefined => {
  if (target.kind === 'cable') return plainWay(from, to, -MOST_AMOUNT, MOST_AMOUNT)
  if (target.kind === 'macro') return plainWay(from, to, 0, 1)
  if (target.kind !== 'param') return undefined
  return kindOf(target.param).way(target.param, from, to)
}

/** The whole range of a target, where something that moves it states none. */
export const wholeRange = (target: Target): readonly [low: number, high: number] =>
  target.kind === 'param' && target.param.kind === 'number' ? [target.param.min, target.param.max] : [0, 1]

/** Weighted mean of a target's values in its modulation unit; weights need not add up to 1. */
export const meanOf = (
  target: Target,
  parts: readonly (readonly [value: number, weight: number])[],
): number => {
  const param = target.kind === 'param' && target.param.kind === 'number' ? target.param : undefined
  const least = param ? octavesFrom(param) : 0
  const bends = Boolean(param && (param.log || param.time)) && parts.every(([value]) => value + least > 0)
  let sum = 0,
    weights = 0
  for (const [value, weight] of parts) {
    sum += weight * (bends ? exactLog(value + least) : value)
    weights += weight
  }
  const mean = bends ? exactExp(sum / weights) - least : sum / weights
  const held = param ? clampTo(param, mean) : mean
  return param?.whole ? Math.round(held) : held
}
