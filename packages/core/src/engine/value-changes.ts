/** What differs between two patches, where it is nothing but values: those travel as events. */
import { CATALOGUE } from '../catalogue.ts'
import { isFormula } from '../patch/formulas.ts'
import type { Cable, ParamValue, Patch, PatchModule } from '../patch/types.ts'
import { append } from '../units/append.ts'
import { own } from '../units/own.ts'

/** A target and its new value. */
export type ValueChange = [target: string, value: ParamValue]

const SAME_MODULE = new Set(['params', 'x', 'y', 'label', 'view'])

/** Values that differ between two patches of the same structure; undefined when the structure differs. */
export const valueChanges = (before: Patch, after: Patch): ValueChange[] | undefined => {
  const changes = isSameFrame(before, after) ? macroChanges(before, after) : undefined
  if (!changes) return undefined
  for (let i = 0; i < before.modules.length; i += 1) {
    const values = moduleChanges(before.modules[i]!, after.modules[i]!)
    if (!values) return undefined
    append(changes, values)
  }
  for (let i = 0; i < before.cables.length; i += 1) {
    const values = cableChanges(before.cables[i]!, after.cables[i]!)
    if (!values) return undefined
    append(changes, values)
  }
  return changes
}

const isSameFrame = (before: Patch, after: Patch): boolean =>
  before.modules.length === after.modules.length &&
  before.cables.length === after.cables.length &&
  before.seed === after.seed &&
  before['tuning'] === after['tuning'] &&
  before['assets'] === after['assets']

const NONE: ValueChange[] = []

const cableChanges = (a: Cable, b: Cable): ValueChange[] | undefined => {
  if (a === b) return NONE
  const same = a.id === b.id && a.from === b.from && a.to === b.to && Boolean(a.muted) === Boolean(b.muted)
  if (!same || b.id === undefined) return undefined
  return (a.amount ?? 1) === (b.amount ?? 1) ? NONE : [[`cable:${b.id}`, b.amount ?? 1]]
}

/** Stored values of macros, for the formulas that read them; undefined when there are others than before. */
const macroChanges = (before: Patch, after: Patch): ValueChange[] | undefined => {
  if (before.macros === after.macros) return []
  const [old, now] = [before.macros ?? [], after.macros ?? []]
  if (old.length !== now.length || old.some((macro, index) => macro.id !== now[index]!.id)) return undefined
  return now.flatMap((macro, index): ValueChange[] =>
    macro.value === old[index]!.value ? [] : [[`macro:${macro.id}`, macro.value]],
  )
}

const isSameModule = (a: PatchModule, b: PatchModule): boolean =>
  a.id === b.id &&
  a.type === b.type &&
  [...new Set([...Object.keys(a), ...Object.keys(b)])].every(
    (field) => SAME_MODULE.has(field) || own(a, field) === own(b, field),
  )

const moduleChanges = (a: PatchModule, b: PatchModule): ValueChange[] | undefined => {
  if (a === b) return NONE
  if (!isSameModule(a, b)) return undefined
  if (a.params === b.params) return NONE
  const entry = CATALOGUE.get(b.type)
  const changes: ValueChange[] = []
  for (const name of new Set([...Object.keys(a.params ?? {}), ...Object.keys(b.params ?? {})])) {
    const param = entry?.params.get(name)
    if (!param || own(a.params, name) === own(b.params, name)) continue
    if (param.setOnly || isFormula(own(a.params, name)) || isFormula(own(b.params, name))) return undefined
    changes.push([`${b.id}.${name}`, own(b.params, name) ?? param.default])
  }
  return changes
}
