/** Macros, snapshots and controllers of a patch, checked like the parameters they move. */
import type { Catalogue } from '../catalogue.ts'
import { shortened } from './formulas.ts'
import { components } from './graph.ts'
import { patchIndex } from './index.ts'
import { ownership } from './macros.ts'
import { targetOf, targetValueFault, unmovable } from './targets.ts'
import {
  type Controller,
  type Fault,
  type Macro,
  oneLine,
  type Patch,
  type Snapshot,
  type StageItem,
} from './types.ts'
import { dataFaults, described, numberIn } from './values.ts'
import { splitTarget } from './walk.ts'
import { own } from '../units/own.ts'
import { append, leastOf } from '../units/append.ts'
import { varyFaults } from './vary.ts'

const macroFaults = (patch: Patch, macro: Macro, place: string, catalogue: Catalogue): Fault[] =>
  (macro.targets ?? []).flatMap(({ param }, index): Fault[] => {
    const message = unmovable(targetOf(patch, param, catalogue), param)
    return message ? [{ place: `${place}.targets[${index}].param`, message }] : []
  })

/** The name of a macro as a sentence can say it. */
const nameOf = ({ name, id }: Macro): string => oneLine(name) || id

/** Targets that several macros name: the last one moves them. */
export const ownerWarnings = (patch: Patch): Fault[] =>
  [...ownership(patch).shared].map(([target, list]) => {
    const last = list.at(-1)!
    const others = [...new Set(list.slice(0, -1).map(({ macro }) => nameOf(macro)))]
    return {
      place: last.place,
      message: `${target} is also named by ${shortened(others).join(', ')}; ${nameOf(last.macro)} moves it, as the last in the file`,
    }
  })

/** Targets that got a second owner by an edit. */
export const ownerFaults = (before: Patch, after: Patch): Fault[] => {
  if (before.macros === after.macros) return []
  const was = ownership(before)
  return [...ownership(after).shared].flatMap(([target, list]): Fault[] => {
    if ((was.shared.get(target)?.length ?? 0) >= list.length) return []
    const owner = was.owner.get(target)?.macro
    const added = list.find(({ macro }) => macro.id !== owner?.id) ?? list.at(-1)!
    return [
      {
        place: added.place,
        message: `${target} is already moved by ${nameOf(owner ?? list[0]!.macro)}, and one macro owns a target. Move it here, or take it off there first`,
      },
    ]
  })
}

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

const bypassFault = (value: unknown): string | undefined =>
  typeof value === 'boolean' ? undefined : `expected true or false, found ${described(value)}`

const snapshotFaults = (patch: Patch, snapshot: Snapshot, place: string, catalogue: Catalogue): Fault[] => {
  const { module: modules } = patchIndex(patch)
  const faults: Fault[] = []
  const note = (where: string, message: string | undefined): void => {
    if (message) faults.push({ place: `${place}.${where}`, message })
  }
  for (const [target, value] of recordOf(snapshot.params))
    note(`params["${target}"]`, targetValueFault(targetOf(patch, target, catalogue), value))
  for (const [target, value] of recordOf(snapshot.data)) {
    const [id = '', name = ''] = splitTarget(target) ?? []
    const module = modules.get(id)
    const data = module && catalogue.get(module.type)?.description.data?.find((item) => item.name === name)
    if (!module) note(`data["${target}"]`, `there is no module "${id}"`)
    else if (data) append(faults, dataFaults(data, value, `${place}.data["${target}"]`))
    else if (catalogue.has(module.type)) note(`data["${target}"]`, `${module.type} has no data "${name}"`)
  }
  for (const [id, value] of recordOf(snapshot.bypass))
    note(`bypass["${id}"]`, modules.has(id) ? bypassFault(value) : `there is no module "${id}"`)
  ;(snapshot.scope ?? []).forEach((entry, index) =>
    note(`scope[${index}]`, scopeFault(patch, entry, catalogue)),
  )
  append(faults, fireFaults(snapshot.fire, `${place}.fire`))
  return faults
}

/** A scope names modules as wholes, or single targets. */
const scopeFault = (patch: Patch, entry: string, catalogue: Catalogue): string | undefined => {
  if (patchIndex(patch).module.has(entry)) return undefined
  if (!entry.includes('.') && !entry.includes(':')) return `there is no module "${entry}"`
  const target = targetOf(patch, entry, catalogue)
  return target.kind === 'none' ? target.message : undefined
}

const controllerFaults = (
  patch: Patch,
  controller: Controller,
  place: string,
  catalogue: Catalogue,
): Fault[] => {
  const message = unmovable(targetOf(patch, controller.target, catalogue), controller.target)
  const { source } = controller
  const sourceless = source === undefined && controller.controller === undefined
  const numberless = source?.kind === 'control' && source.number === undefined
  return [
    ...(message ? [{ place: `${place}.target`, message }] : []),
    ...(sourceless ? [{ place: `${place}.source`, message: 'is missing: which message moves it?' }] : []),
    ...(numberless ? [{ place: `${place}.source.number`, message: 'is missing: which control?' }] : []),
  ]
}

const FEWEST_MARKS = 2,
  MOST_MARKS = 8

/** Faults of a blend's marks: 2…8 snapshots, each at a place of its own. */
const blendFaults = (patch: Patch, item: StageItem, place: string): Fault[] => {
  const { marks } = item
  if (!Array.isArray(marks))
    return [{ place: `${place}.marks`, message: `expected a list, found ${described(marks)}` }]
  if (marks.length < FEWEST_MARKS || marks.length > MOST_MARKS)
    return [
      {
        place: `${place}.marks`,
        message: `there are ${marks.length}; a blend has ${FEWEST_MARKS}…${MOST_MARKS}`,
      },
    ]
  const snapshots = new Set((patch.snapshots ?? []).map(({ id }) => id)),
    taken = new Set<string>()
  return marks.flatMap((mark: unknown, index): Fault[] => {
    const here = `${place}.marks[${index}]`
    if (typeof mark !== 'object' || mark === null)
      return [{ place: here, message: `expected an object, found ${described(mark)}` }]
    const { snapshot, x, y } = mark as { snapshot?: unknown; x?: unknown; y?: unknown }
    const wrong = numberIn(x, 0, 1) ?? numberIn(y, 0, 1)
    if (!snapshots.has(snapshot as string))
      return [{ place: `${here}.snapshot`, message: `there is no snapshot ${described(snapshot)}` }]
    if (wrong) return [{ place: here, message: `its place: ${wrong}` }]
    const spot = `${String(x)} ${String(y)}`
    if (taken.has(spot)) return [{ place: here, message: 'another mark stands at the same place' }]
    taken.add(spot)
    return []
  })
}

const stageFaults = (patch: Patch): Fault[] =>
  (patch.stage?.items ?? []).flatMap((item, index) =>
    item.kind === 'blend' ? blendFaults(patch, item, `stage.items[${index}]`) : [],
  )

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
    controllers = patch.controllers ?? []
  return [
    ...twice(macros, 'macros', 'macro'),
    ...twice(snapshots, 'snapshots', 'snapshot'),
    ...twice(controllers, 'controllers', 'controller'),
    ...twice(patch.stage?.items ?? [], 'stage.items', 'item'),
    ...macros.flatMap((macro, index) => macroFaults(patch, macro, `macros[${index}]`, catalogue)),
    ...macroRings(macros),
    ...snapshots.flatMap((snapshot, index) =>
      snapshotFaults(patch, snapshot, `snapshots[${index}]`, catalogue),
    ),
    ...controllers.flatMap((controller, index) =>
      controllerFaults(patch, controller, `controllers[${index}]`, catalogue),
    ),
    ...stageFaults(patch),
    ...varyFaults(patch, catalogue),
  ]
}
