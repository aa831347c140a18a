/** What is wrong with the limits of a patch's variations. */
import type { Catalogue } from '../catalogue.ts'
import { targetOf, type Target, targetValueFault } from './targets.ts'
import { ownership } from './macros.ts'
import { type Fault, oneLine, type Patch } from './types.ts'
import { described, numberIn } from './values.ts'

type Entry = readonly [field: string, message: string | undefined]

const wordsFault = (target: Target, words: unknown): string | undefined => {
  if (!Array.isArray(words)) return `expected a list, found ${described(words)}`
  if (words.length === 0) return 'is empty; lock it instead'
  if (target.kind !== 'param' || target.param.kind === 'number')
    return target.kind === 'placeholder' ? undefined : 'it has no words to choose from'
  for (const word of words as unknown[]) {
    const fault = targetValueFault(target, word)
    if (fault !== undefined) return fault
  }
  return undefined
}

const boundFault = (target: Target, value: unknown): string | undefined => {
  if (target.kind === 'param' && target.param.kind !== 'number')
    return 'it has no range; choose words instead'
  return typeof value === 'number' ? targetValueFault(target, value) : numberIn(value, 0, 0)
}

const limitFaults = (target: Target, limit: ReadonlyMap<string, unknown>): Entry[] => {
  const at = (field: string, fault: (value: unknown) => string | undefined): Entry => {
    const value = limit.get(field)
    return [field, value === undefined ? undefined : fault(value)]
  }
  const low = limit.get('low'),
    high = limit.get('high')
  return [
    at('low', (value) => boundFault(target, value)),
    at('high', (value) => boundFault(target, value)),
    [
      'high',
      Number(low) > Number(high) ? `${String(high)} is below the other end, ${String(low)}` : undefined,
    ],
    at('spread', (value) => numberIn(value, 0, 1)),
    at('lock', (value) =>
      typeof value === 'boolean' ? undefined : `expected true or false, found ${described(value)}`,
    ),
    at('choices', (value) => wordsFault(target, value)),
  ]
}

/** Faults of `vary` beyond its shape: targets that are not there, values they cannot take. */
export const varyFaults = (patch: Patch, catalogue: Catalogue): Fault[] =>
  Object.entries(patch.vary?.limits ?? {}).flatMap(([name, limit]): Fault[] => {
    const place = `vary.limits["${name}"]`,
      target = targetOf(patch, name, catalogue)
    if (target.kind === 'none') return [{ place, message: target.message }]
    if (typeof limit !== 'object' || limit === null || Array.isArray(limit))
      return [{ place, message: `expected an object, found ${described(limit)}` }]
    return limitFaults(target, new Map(Object.entries(limit))).flatMap(([field, message]) =>
      message === undefined ? [] : [{ place: `${place}.${field}`, message }],
    )
  })

/** Limits that change nothing: a macro moves their targets as soon as the patch is loaded. */
export const varyWarnings = (patch: Patch): Fault[] => {
  const { owner } = ownership(patch)
  return Object.keys(patch.vary?.limits ?? {}).flatMap((name): Fault[] => {
    const macro = owner.get(name)?.macro
    return macro
      ? [
          {
            place: `vary.limits["${name}"]`,
            message: `the macro ${oneLine(macro.name) || macro.id} moves it; limit macro:${macro.id} instead`,
          },
        ]
      : []
  })
}
