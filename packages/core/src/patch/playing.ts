/** Macros, snapshots and controllers of a patch, checked like the parameters they move. */
import type { Catalogue } from '../catalogue.ts'
import { paramAt } from '../describe/params.ts'
import type { ParamDescription } from '../describe/types.ts'
import { shortened } from './formulas.ts'
import { components } from './graph.ts'
import { patchIndex } from './index.ts'
import type { Fault, Macro, Patch, PatchModule, Snapshot } from './types.ts'
import { dataFaults, described, MOST_AMOUNT, numberIn, valueFault } from './values.ts'
import { splitTarget } from './walk.ts'
import { own } from '../units/own.ts'
import { append, leastOf } from '../units/append.ts'

/** What a target (`id.param`, `cable:ID`, `macro:ID`) is, or why there is no such thing. */
type Target =
  | { readonly kind: 'param'; readonly param: ParamDescription; readonly module: PatchModule }
  | { readonly kind: 'cable' | 'macro' | 'placeholder' }
  | { readonly kind: 'none'; readonly message: string }

export const targetOf = (patch: Patch, target: string, catalogue: Catalogue): Target => {
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

const macroFaults = (patch: Patch, macro: Macro, place: string, catalogue: Catalogue): Fault[] =>
  (macro.targets ?? []).flatMap(({ param }, index): Fault[] => {
    const target = targetOf(patch, param, catalogue)
    const message =
      target.kind === 'none'
        ? target.message
        : target.kind === 'param' && target.param.setOnly
          ? `${param} is set only: a macro cannot move it`
          : undefined
    return message ? [{ place: `${place}.targets[${index}].param`, message }] : []
  })

/** Macros that move themselves, by way of others or at once. */
const macroRings = (macros: readonly Macro[]): Fault[] => {
  const numbers = new Map(macros.map((macro, index) => [`macro:${macro.id}`, index]))
  const edges = macros.map((macro) => (macro.targets ?? []).flatMap(({ param }) => numbers.get(param) ?? []))
  return components(macros.length, edges).members.flatMap((members): Fault[] => {
    const first = leastOf(members)
    if (members.length === 1 && !edges[first]!.includes(first)) return []
    const names = members.map((index) => macros[index]!.id)
    return [
      {
        place: `macros[${first}].targets`,
        message:
          names.length === 1
            ? `the macro ${names[0]} moves itself`
            : `the macros ${shortened(names).join(', ')} move each other in a ring`,
      },
    ]
  })
}

const recordOf = (value: unknown): [string, unknown][] =>
  typeof value === 'object' && value !== null ? Object.entries(value) : []

const FIRE: Readonly<Record<string, readonly [low: number, high: number]>> = {
  note: [0, 127],
  velocity: [0, 1],
  length: [0, 3600],
}

const fireFaults = (fire: unknown, place: string): Fault[] => {
  if (fire === undefined) return []
  const record = fire as Record<string, unknown>
  if (record['note'] === undefined) return [{ place: `${place}.note`, message: 'is missing' }]
  return Object.entries(FIRE).flatMap(([name, [low, high]]): Fault[] => {
    const value = own(record, name)
    const message = value === undefined ? undefined : numberIn(value, low, high)
    return message ? [{ place: `${place}.${name}`, message }] : []
  })
}

const snapshotFaults = (patch: Patch, snapshot: Snapshot, place: string, catalogue: Catalogue): Fault[] => {
  const { module: modules } = patchIndex(patch)
  const faults: Fault[] = []
  const note = (where: string, message: string | undefined): void => {
    if (message) faults.push({ place: `${place}.${where}`, message })
  }
  for (const [target, value] of recordOf(snapshot.params))
    note(`params["${target}"]`, targetValueFault(targetOf(patch, target, catalogue), value))
  for (const [target, value] of recordOf(snapshot['data'])) {
    const [id = '', name = ''] = splitTarget(target) ?? []
    const module = modules.get(id)
    const data = module && catalogue.get(module.type)?.description.data?.find((item) => item.name === name)
    if (!module) note(`data["${target}"]`, `there is no module "${id}"`)
    else if (data) append(faults, dataFaults(data, value, `${place}.data["${target}"]`))
    else if (catalogue.has(module.type)) note(`data["${target}"]`, `${module.type} has no data "${name}"`)
  }
  for (const [id, value] of recordOf(snapshot['bypass']))
    note(
      `bypass["${id}"]`,
      !modules.has(id)
        ? `there is no module "${id}"`
        : typeof value === 'boolean'
          ? undefined
          : `expected true or false, found ${described(value)}`,
    )
  append(faults, fireFaults(snapshot['fire'], `${place}.fire`))
  return faults
}

/** Ids that stand twice in a list. */
const twice = (items: readonly { readonly id?: unknown }[], place: string, what: string): Fault[] => {
  const seen = new Set<unknown>()
  return items.flatMap(({ id }, index): Fault[] => {
    const again = id !== undefined && seen.has(id)
    seen.add(id)
    return again
      ? [{ place: `${place}[${index}].id`, message: `"${String(id)}" is already the id of another ${what}` }]
      : []
  })
}

/** Faults of everything that moves parameters. */
export const playingFaults = (patch: Patch, catalogue: Catalogue): Fault[] => {
  const macros = patch.macros ?? [],
    snapshots = patch.snapshots ?? [],
    controllers = (patch['controllers'] ?? []) as { readonly target: string }[]
  return [
    ...twice(macros, 'macros', 'macro'),
    ...twice(snapshots, 'snapshots', 'snapshot'),
    ...macros.flatMap((macro, index) => macroFaults(patch, macro, `macros[${index}]`, catalogue)),
    ...macroRings(macros),
    ...snapshots.flatMap((snapshot, index) =>
      snapshotFaults(patch, snapshot, `snapshots[${index}]`, catalogue),
    ),
    ...controllers.flatMap(({ target }, index): Fault[] => {
      const found = targetOf(patch, target, catalogue)
      return found.kind === 'none' ? [{ place: `controllers[${index}].target`, message: found.message }] : []
    }),
  ]
}
