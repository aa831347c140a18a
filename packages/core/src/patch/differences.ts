/** What differs between two states of a patch, in the terms of a designer. */
import { CATALOGUE, type Catalogue } from '../catalogue.ts'
import { printAmount, printValue } from '../describe/fields.ts'
import { paramAt } from '../describe/params.ts'
import { patchIndex } from './index.ts'
import { own } from '../units/own.ts'
import type { Cable, ParamValue, Patch, PatchModule } from './types.ts'
import { everyModule, splitTarget } from './walk.ts'

/** One value that differs: `filter.cutoff` or `cable:c3`. */
export interface ValueDifference {
  readonly target: string
  /** In words with units: "1 kHz". */
  readonly before: string
  readonly after: string
}

export interface Differences {
  readonly modulesAdded: readonly string[]
  readonly modulesRemoved: readonly string[]
  /** Renamed, bypassed, of another type or with other data. */
  readonly modulesChanged: readonly string[]
  /** `osc.saw > filter.in` */
  readonly cablesAdded: readonly string[]
  readonly cablesRemoved: readonly string[]
  readonly values: readonly ValueDifference[]
  /** Fields of the patch itself that differ: name, tempo, macros … */
  readonly fields: readonly string[]
}

const isSame = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b)

const wordsOf = (module: PatchModule, name: string, value: ParamValue, catalogue: Catalogue): string => {
  const known = catalogue.get(module.type)?.params.get(name)
  return printValue(known && paramAt(known, module.params), value)
}

const valuesOf = (before: PatchModule, after: PatchModule, catalogue: Catalogue): ValueDifference[] => {
  const names = new Set([...Object.keys(before.params ?? {}), ...Object.keys(after.params ?? {})])
  return [...names].flatMap((name) => {
    const fallback = catalogue.get(after.type)?.params.get(name)?.default ?? ''
    const old = own(before.params, name) ?? fallback,
      now = own(after.params, name) ?? fallback
    return isSame(old, now)
      ? []
      : [
          {
            target: `${after.id}.${name}`,
            before: wordsOf(before, name, old, catalogue),
            after: wordsOf(after, name, now, catalogue),
          },
        ]
  })
}

const isChanged = (before: PatchModule, after: PatchModule): boolean =>
  before.type !== after.type ||
  before.label !== after.label ||
  (before.bypass ?? false) !== (after.bypass ?? false) ||
  !isSame(before.data ?? {}, after.data ?? {}) ||
  !isSame(before['face'] ?? [], after['face'] ?? [])

const endsOf = (cable: Cable): string => `${cable.from} > ${cable.to}`

const amountWords = (patch: Patch, cable: Cable, catalogue: Catalogue): string => {
  const [id = '', name = ''] = splitTarget(cable.to) ?? []
  const type = patchIndex(patch).module.get(id)?.type ?? ''
  return `${printAmount(catalogue.get(type)?.params.get(name), cable.amount ?? 1)}${cable.muted ? ', muted' : ''}`
}

/** Where cards stand, what the patch was made with and what is shown are no differences of sound. */
const NOT_TOLD = new Set(['modules', 'cables', 'view', 'app', 'version', 'format'])

/** What has become of `before` in `after`. */
export const differences = (before: Patch, after: Patch, catalogue: Catalogue = CATALOGUE): Differences => {
  const [old, now] = [before, after].map(
    (patch) => new Map(everyModule(patch).map(({ module }) => [module.id, module])),
  ) as [Map<string, PatchModule>, Map<string, PatchModule>]
  const both = [...now.values()].filter(({ id }) => old.has(id))
  const [oldCables, nowCables] = [before, after].map(
    (patch) => new Map(patchIndex(patch).cables.map(({ cable }) => [endsOf(cable), cable])),
  ) as [Map<string, Cable>, Map<string, Cable>]
  const amounts = [...nowCables].flatMap(([ends, cable]): ValueDifference[] => {
    const was = oldCables.get(ends)
    if (!was) return []
    const [from, to] = [amountWords(before, was, catalogue), amountWords(after, cable, catalogue)]
    return from === to ? [] : [{ target: `cable:${cable.id ?? ends}`, before: from, after: to }]
  })
  const fields = new Set([...Object.keys(before), ...Object.keys(after)])
  return {
    modulesAdded: [...now.keys()].filter((id) => !old.has(id)),
    modulesRemoved: [...old.keys()].filter((id) => !now.has(id)),
    modulesChanged: both.filter((module) => isChanged(old.get(module.id)!, module)).map(({ id }) => id),
    cablesAdded: [...nowCables.keys()].filter((ends) => !oldCables.has(ends)),
    cablesRemoved: [...oldCables.keys()].filter((ends) => !nowCables.has(ends)),
    values: [...both.flatMap((module) => valuesOf(old.get(module.id)!, module, catalogue)), ...amounts],
    fields: [...fields].filter((name) => !NOT_TOLD.has(name) && !isSame(own(before, name), own(after, name))),
  }
}

const counted = (count: number, one: string, word: string): string[] =>
  count === 0 ? [] : [`${count} ${count === 1 ? one : `${one}s`} ${word}`]

/** The same in one line: "2 modules added, 1 value changed". */
export const differenceWords = (found: Differences): string =>
  [
    ...counted(found.modulesAdded.length, 'module', 'added'),
    ...counted(found.modulesRemoved.length, 'module', 'removed'),
    ...counted(found.modulesChanged.length, 'module', 'changed'),
    ...counted(found.cablesAdded.length, 'cable', 'added'),
    ...counted(found.cablesRemoved.length, 'cable', 'removed'),
    ...counted(found.values.length, 'value', 'changed'),
    ...found.fields,
  ].join(', ') || 'no difference'
