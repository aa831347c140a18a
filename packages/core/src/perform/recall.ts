/** What a snapshot means for a patch, and what a blend of several. */
import { CATALOGUE } from '../catalogue.ts'
import { isFormula } from '../patch/formulas.ts'
import type { Moves } from '../patch/document.ts'
import { patchIndex } from '../patch/index.ts'
import { macroMoves, ownership } from '../patch/macros.ts'
import { meanOf, setValueOf, type Target, targetOf } from '../patch/targets.ts'
import type { ParamValue, Patch, Snapshot, StageItem } from '../patch/types.ts'
import { splitTarget } from '../patch/walk.ts'
import { own } from '../units/own.ts'

type Lists = Readonly<Record<string, unknown>>

/** How things are heard before a recall. */
export interface Now {
  valueOf(target: string): ParamValue | undefined
  dataOf(id: string): Lists | undefined
  bypassOf(id: string): boolean
}

/** Where a recall takes a patch: numbers at once or along a morph, all else at its end. */
export interface Recall {
  readonly numbers: ReadonlyMap<string, number>
  /** Choices, switches, formulas and what is set only. */
  readonly words: ReadonlyMap<string, ParamValue>
  /** All data of a module, by its id. */
  readonly data: ReadonlyMap<string, Lists>
  readonly bypass: ReadonlyMap<string, boolean>
}

/** Can this value be reached by moving, where the target has a number now? */
const moves = (target: Target, value: ParamValue, now: ParamValue | undefined): boolean =>
  typeof value === 'number' &&
  !isFormula(now) &&
  (target.kind === 'cable' ||
    target.kind === 'macro' ||
    (target.kind === 'param' && target.param.kind === 'number' && !target.param.setOnly))

/** Targets a scope speaks for, with their set values. */
const scoped = (patch: Patch, scope: readonly string[]): Map<string, ParamValue> => {
  const { module: modules } = patchIndex(patch)
  const found = new Map<string, ParamValue>()
  for (const entry of scope) {
    const module = modules.get(entry)
    const names = module
      ? [...(CATALOGUE.get(module.type)?.params.keys() ?? [])].map((name) => `${entry}.${name}`)
      : [entry]
    for (const name of names) {
      const value = setValueOf(patch, name)
      if (value !== undefined) found.set(name, value)
    }
  }
  return found
}

/** All values a snapshot brings: what it lists, and what its scope speaks for as it is set. */
const valuesOf = (patch: Patch, { params, scope }: Snapshot): Map<string, ParamValue> => {
  const values = scoped(patch, scope ?? [])
  for (const [target, value] of Object.entries(params ?? {})) values.set(target, value)
  return values
}

const dataOf = (patch: Patch, snapshot: Snapshot, now: Now): Map<string, Lists> => {
  const { module: set } = patchIndex(patch)
  const found = new Map<string, Lists>()
  for (const entry of snapshot.scope ?? []) {
    const module = set.get(entry)
    if (module && module.data !== now.dataOf(entry)) found.set(entry, module.data ?? {})
  }
  for (const [target, list] of Object.entries(snapshot.data ?? {})) {
    const [id = '', name = ''] = splitTarget(target) ?? []
    if (set.has(id)) found.set(id, { ...(found.get(id) ?? now.dataOf(id)), [name]: list })
  }
  return found
}

const bypassOf = (patch: Patch, snapshot: Snapshot): Map<string, boolean> => {
  const { module: modules } = patchIndex(patch)
  const found = new Map<string, boolean>()
  for (const entry of snapshot.scope ?? []) {
    const module = modules.get(entry)
    if (module) found.set(entry, module.bypass === true)
  }
  for (const [id, value] of Object.entries(snapshot.bypass ?? {})) if (modules.has(id)) found.set(id, value)
  return found
}

/** What a list of values means: macros first, with what they own; then what no macro owns. */
const settled = (patch: Patch, values: ReadonlyMap<string, ParamValue>): Map<string, ParamValue> => {
  const { owner } = ownership(patch)
  const macros = new Map(
    [...values].flatMap(([target, value]): [string, number][] =>
      target.startsWith('macro:') ? [[target.slice(6), Number(value)]] : [],
    ),
  )
  const found = macroMoves(patch, macros)
  for (const [target, value] of values)
    if (!target.startsWith('macro:') && !owner.has(target)) found.set(target, value)
  return found
}

const recallOf = (
  patch: Patch,
  now: Now,
  values: ReadonlyMap<string, ParamValue>,
  data: ReadonlyMap<string, Lists>,
  bypass: ReadonlyMap<string, boolean>,
): Recall => {
  const numbers = new Map<string, number>(),
    words = new Map<string, ParamValue>()
  for (const [target, value] of settled(patch, values)) {
    const found = targetOf(patch, target)
    if (found.kind === 'none' || found.kind === 'placeholder') continue
    const before = now.valueOf(target)
    if (moves(found, value, before)) numbers.set(target, Number(value))
    else if (value !== before) words.set(target, value)
  }
  return {
    numbers,
    words,
    data,
    bypass: new Map([...bypass].filter(([id, value]) => now.bypassOf(id) !== value)),
  }
}

/** Where a snapshot takes a patch from how it is heard now. */
export const snapshotRecall = (patch: Patch, now: Now, snapshot: Snapshot): Recall =>
  recallOf(patch, now, valuesOf(patch, snapshot), dataOf(patch, snapshot, now), bypassOf(patch, snapshot))

export const snapshotNamed = (patch: Patch, id: string): Snapshot | undefined =>
  patch.snapshots?.find((snapshot) => snapshot.id === id)
export const blendNamed = (patch: Patch, id: string): StageItem | undefined =>
  patch.stage?.items?.find((item) => item.id === id && item.kind === 'blend')

/** Another mark has to be so much nearer to give the words. */
const NEARER = 0.9

/** Marks of a blend with their distances from a point, and the one that gives the words. */
const marksAt = (
  item: StageItem,
  x: number,
  y: number,
  before: string | undefined,
): {
  readonly nearest: string
  readonly weights: readonly (readonly [snapshot: string, weight: number])[]
} => {
  const marks = (item.marks ?? []).map((mark) => ({
    snapshot: mark.snapshot,
    distance: Math.sqrt((mark.x - x) ** 2 + (mark.y - y) ** 2),
  }))
  const closest = marks.reduce((best, mark) => (mark.distance < best.distance ? mark : best))
  const kept = marks.find(({ snapshot }) => snapshot === before)
  const nearest = kept && !(closest.distance < NEARER * kept.distance) ? kept : closest
  return {
    nearest: nearest.snapshot,
    weights:
      closest.distance === 0
        ? [[closest.snapshot, 1]]
        : marks.map(({ snapshot, distance }) => [snapshot, (closest.distance / distance) ** 2]),
  }
}

export interface Blended {
  readonly recall: Recall
  readonly nearest: string
}

/**
 * Where a blend takes a patch: every number the mean of the snapshots by 1/d², in its modulation unit; words, data and
 * bypass as the nearest has them. `before` is the nearest so far.
 */
export const blendRecall = (
  patch: Patch,
  now: Now,
  item: StageItem,
  x: number,
  y: number,
  before: string | undefined,
): Blended => {
  const { nearest, weights } = marksAt(item, x, y, before)
  const parts = weights.flatMap(([id, weight]) => {
    const snapshot = snapshotNamed(patch, id)
    return snapshot ? [{ id, weight, values: valuesOf(patch, snapshot) }] : []
  })
  const names = new Set(
    (item.marks ?? []).flatMap(({ snapshot }) => [...(valuesIn(patch, snapshot)?.keys() ?? [])]),
  )
  const values = new Map<string, ParamValue>()
  const words = valuesIn(patch, nearest)
  for (const name of names) {
    const target = targetOf(patch, name),
      set = setValueOf(patch, name)
    if (set === undefined || isLeftOut(patch, item, name)) continue
    if (moves(target, typeof set === 'number' ? set : '', set))
      values.set(
        name,
        meanOf(
          target,
          parts.map((part) => [Number(part.values.get(name) ?? set), part.weight]),
        ),
      )
    else values.set(name, words?.get(name) ?? set)
  }
  const snapshot = snapshotNamed(patch, nearest)
  // A list or bypass that only others name counts as it is set.
  const others = (item.marks ?? []).flatMap((mark) => snapshotNamed(patch, mark.snapshot) ?? [])
  const scope = [
    ...new Set(
      others.flatMap((other) => [
        ...Object.keys(other.data ?? {}).map((name) => splitTarget(name)?.[0] ?? ''),
        ...Object.keys(other.bypass ?? {}),
        ...(other.scope ?? []),
      ]),
    ),
  ]
  const whole: Snapshot = { id: nearest, name: '', ...snapshot, scope }
  return {
    nearest,
    recall: recallOf(patch, now, values, dataOf(patch, whole, now), bypassOf(patch, whole)),
  }
}

const valuesIn = (patch: Patch, id: string): Map<string, ParamValue> | undefined => {
  const snapshot = snapshotNamed(patch, id)
  return snapshot && valuesOf(patch, snapshot)
}

/** Is it a formula or set only in the patch or in any of the snapshots? Then a blend does not touch it. */
const isLeftOut = (patch: Patch, item: StageItem, name: string): boolean => {
  const target = targetOf(patch, name)
  if (target.kind !== 'param') return target.kind === 'none' || target.kind === 'placeholder'
  return (
    target.param.setOnly === true ||
    isFormula(setValueOf(patch, name)) ||
    (item.marks ?? []).some(({ snapshot }) => isFormula(own(snapshotNamed(patch, snapshot)?.params, name)))
  )
}

/** Targets of a blend's snapshots that it leaves out: formulas and what is set only. */
export const blendLeavesOut = (patch: Patch, item: StageItem): string[] => [
  ...new Set(
    (item.marks ?? []).flatMap(({ snapshot }) =>
      [...(valuesIn(patch, snapshot)?.keys() ?? [])].filter(
        (name) => targetOf(patch, name).kind === 'param' && isLeftOut(patch, item, name),
      ),
    ),
  ),
]

/** Takes moves that are there `now` to others: what those do not name goes back to what loading gives. */
export const movesRecall = (
  now: Moves,
  to: ReadonlyMap<string, ParamValue> | undefined,
  loaded: (target: string) => ParamValue | undefined,
): Recall => {
  const numbers = new Map<string, number>(),
    words = new Map<string, ParamValue>()
  for (const target of new Set([...Object.keys(now.values), ...(to?.keys() ?? [])])) {
    const value = to?.get(target) ?? loaded(target)
    if (typeof value === 'number') numbers.set(target, value)
    else if (value !== undefined) words.set(target, value)
  }
  return { numbers, words, data: new Map(), bypass: new Map() }
}
