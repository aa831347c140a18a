/** What a target (`id.param`, `cable:ID`, `macro:ID`) is, and the way between two of its values. */
import { CATALOGUE, type Catalogue } from '../catalogue.ts'
import { leastOf, paramAt } from '../describe/params.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { NumberParam, ParamDescription } from '../describe/types.ts'
import { exactExp, exactLog } from '../units/exact.ts'
import { own } from '../units/own.ts'
import { isFormula } from './formulas.ts'
import { patchIndex } from './index.ts'
import type { ParamValue, Patch, PatchModule } from './types.ts'
import { MOST_AMOUNT, numberIn, valueFault } from './values.ts'
import { splitTarget } from './walk.ts'

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
  if (target.param.setOnly || target.param.kind === 'text')
    return `${name} is set only: it cannot be moved while it plays`
  return isSignalParam(target.param) && isFormula(own(target.module.params, target.param.name))
    ? `${name} holds a formula; let the formula name what is to move it`
    : undefined
}

/** Times move in octaves of themselves plus this; in samples it is counted at this rate, whatever the engine's. */
const COUNTED_RATE = 48000

const clampTo = ({ min, max }: NumberParam, value: number): number => Math.min(max, Math.max(min, value))

/** A number between two values of a parameter, at a share of the way in its modulation unit: octaves for ∿ and times. */
const between = (param: NumberParam, from: number, to: number, share: number): number => {
  if (share <= 0 || from === to) return from
  if (share >= 1) return to
  const least = param.time ? leastOf(param, COUNTED_RATE) : 0
  if (!(param.log || param.time) || from + least <= 0 || to + least <= 0) return from + (to - from) * share
  return (from + least) * exactExp(share * exactLog((to + least) / (from + least))) - least
}

/** Where a value stands between two others, in the modulation unit; not held within 0…1. */
const shareBetween = (param: NumberParam, from: number, to: number, value: number): number => {
  const least = param.time ? leastOf(param, COUNTED_RATE) : 0
  if (!(param.log || param.time) || from + least <= 0 || to + least <= 0 || value + least <= 0)
    return to === from ? 0 : (value - from) / (to - from)
  return to === from
    ? 0
    : exactLog((value + least) / (from + least)) / exactLog((to + least) / (from + least))
}

/** Words a range covers: places in the list. Within 0…1 a range is a share of the whole list, beyond that it counts words. */
const wordsOf = (choices: readonly string[], from: number, to: number): readonly string[] => {
  const last = choices.length - 1
  const counted = Math.max(Math.abs(from), Math.abs(to)) > 1
  if (!counted) return from <= to ? choices : [...choices].reverse()
  const place = (x: number): number => Math.min(last, Math.max(0, Math.round(x)))
  const [low, high] = [place(Math.min(from, to)), place(Math.max(from, to))]
  const covered = choices.slice(low, high + 1)
  return from <= to ? covered : covered.reverse()
}

/** The way of a target from one value to another: what macros, controllers, morphs and blends move along. */
export interface Way {
  /** The value at a share 0…1 of the way. */
  at(share: number): ParamValue
  /** Share of the way at which a value stands, within 0…1. */
  shareOf(value: ParamValue): number
}

const within = (share: number): number => (share > 0 ? Math.min(1, share) : 0)

const wordWay = (choices: readonly string[], from: number, to: number): Way => {
  const words = wordsOf(choices, from, to)
  // A part of 0…1 is a part of the list: its bands stay where they are.
  const part = Math.max(Math.abs(from), Math.abs(to)) <= 1
  const [low, high] = part ? [Math.min(from, to), Math.max(from, to)] : [0, 1]
  const place = (share: number): number =>
    from <= to ? low + (high - low) * share : 1 - high + (high - low) * share
  return {
    at: (share) => words[Math.min(words.length - 1, Math.floor(within(place(share)) * words.length))]!,
    shareOf: (value) => {
      const middle = (words.indexOf(String(value)) + 0.5) / words.length
      const start = place(0)
      return high > low ? within((middle - start) / (high - low)) : 0
    },
  }
}

const numberWay = (param: NumberParam, low: number, high: number): Way => {
  const from = clampTo(param, low),
    to = clampTo(param, high)
  return {
    at: (share) => {
      const value = between(param, from, to, within(share))
      return param.whole ? Math.round(value) : value
    },
    shareOf: (value) => within(shareBetween(param, from, to, Number(value))),
  }
}

const plainWay = (from: number, to: number, low: number, high: number): Way => ({
  at: (share) => Math.min(high, Math.max(low, from + (to - from) * within(share))),
  shareOf: (value) => (to === from ? 0 : within((Number(value) - from) / (to - from))),
})

const switchWay = (from: number, to: number): Way => ({
  at: (share) => from + (to - from) * within(share) >= 0.5,
  shareOf: (value) => (to === from ? 0 : within(((value === true ? 1 : 0) - from) / (to - from))),
})

/** The way of a target between two values, in the target's unit; undefined for what has no values between. */
export const wayOf = (target: Target, from: number, to: number): Way | undefined => {
  if (target.kind === 'cable') return plainWay(from, to, -MOST_AMOUNT, MOST_AMOUNT)
  if (target.kind === 'macro') return plainWay(from, to, 0, 1)
  if (target.kind !== 'param') return undefined
  const { param } = target
  switch (param.kind) {
    case 'number':
      return numberWay(param, from, to)
    case 'switch':
      return switchWay(from, to)
    case 'choice':
      return wordWay(param.choices, from, to)
    case 'text':
      return undefined
  }
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
  const least = param?.time ? leastOf(param, COUNTED_RATE) : 0
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
