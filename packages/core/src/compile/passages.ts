/** Where signals pass through what is dissolved: groups, buses, bypassed modules. */
import type { Catalogue } from '../catalogue.ts'
import type { BypassRule, ModuleDescription } from '../describe/types.ts'
import { closingCables, components, topological, withCables } from '../patch/graph.ts'
import { addsVoices, descriptionOf } from '../patch/groups.ts'
import { groupPorts, type PatchIndex } from '../patch/index.ts'
import type { Cable, PatchModule } from '../patch/types.ts'
import { endsOf, portName } from '../patch/walk.ts'

/** Field formulas come after all cables of the file. */
export const FORMULA_ORDER = 1e6

/** A circle of buses, group ports and bypassed modules alone: one of its cables is held back by a sample. */
export interface HeldCable {
  readonly name: string
  /** What the circle is made of, by id. */
  readonly modules: readonly string[]
}

/** Key of what all sends to a bus share. */
const busOf = (module: PatchModule): string => `bus:${String(module.params?.['bus'] ?? 'bus')}`

/** A group's output: of a bypassed one what comes in, at the one output that passes it. */
const groupPassage = (group: PatchModule, port: string): string => {
  if (group.bypass) {
    const rule = descriptionOf(group)?.bypass
    if (rule) return rule.to === port ? `${group.id}.${rule.from}` : ''
  }
  const inner = groupPorts(group).out.get(port)
  return inner === undefined ? '' : `${inner}.in`
}

/**
 * Where a signal goes on when it comes to a port of something that is dissolved: the key under which its cables are
 * found, '' where nothing comes. `undefined` for real outputs.
 */
const passage = (
  module: PatchModule,
  port: string,
  catalogue: Catalogue,
  { parent }: PatchIndex,
): string | undefined => {
  if (module.type === 'group') return groupPassage(module, port)
  if (module.type === 'portin') {
    const group = parent.get(module.id)
    if (addsVoices(module, group)) return undefined
    return group ? `${group.id}.${portName(module)}` : ''
  }
  const description = catalogue.get(module.type)?.description
  if (description?.part === 'receive') return busOf(module)
  const bypass = description && ruleOf(module, description)
  if (bypass?.to === port) return `${module.id}.${bypass.from}`
  return description && (!bypass || bypass.tail) ? undefined : ''
}

/** How a module is bypassed, where it is. */
const ruleOf = ({ bypass }: PatchModule, description: ModuleDescription): BypassRule | undefined =>
  bypass ? description.bypass : undefined

/** The rule of a module that is bypassed and plays on for its tail. */
export const tailOf = (module: PatchModule, catalogue: Catalogue): BypassRule | undefined => {
  const description = catalogue.get(module.type)?.description
  const rule = description && ruleOf(module, description)
  return rule?.tail ? rule : undefined
}

/** Key under which the cables that end on a port are found: all that end on one bus share one. */
const endOf = (cable: Cable, byId: ReadonlyMap<string, PatchModule>, catalogue: Catalogue): string => {
  const { toModule, toPort } = endsOf(cable)
  const module = byId.get(toModule)
  if (module && toPort === 'in' && catalogue.get(module.type)?.description.part === 'send')
    return busOf(module)
  return module?.type === 'portout' ? `${toModule}.in` : cable.to
}

/** A cable as it stands: from a real output, or from where a signal passes through. */
export interface Ending {
  readonly cable: Cable
  readonly order: number
  readonly module: string
  readonly port: string
  /** Key of what it passes on; undefined for real outputs. */
  readonly through: string | undefined
}

/** Everything that ends somewhere, by where; muted cables and those from nowhere are left out. */
export const endings = (
  formulas: readonly Cable[],
  byId: ReadonlyMap<string, PatchModule>,
  catalogue: Catalogue,
  index: PatchIndex,
): Map<string, Ending[]> => {
  const ending = new Map<string, Ending[]>()
  const add = (cable: Cable, order: number): void => {
    const { fromModule, fromPort } = endsOf(cable)
    const source = byId.get(fromModule)
    const through = source ? passage(source, fromPort, catalogue, index) : ''
    if (cable.muted || through === '') return
    const key = endOf(cable, byId, catalogue),
      list = ending.get(key) ?? []
    ending.set(key, list)
    list.push({ cable, order, module: fromModule, port: fromPort, through })
    // What rings on is heard besides what passes.
    if (through !== undefined && source && tailOf(source, catalogue))
      list.push({ cable, order, module: fromModule, port: fromPort, through: undefined })
  }
  index.cables.forEach(({ cable }, order) => {
    add(cable, order)
  })
  formulas.forEach((cable, at) => {
    add(cable, FORMULA_ORDER + at)
  })
  return ending
}

const heldId = (cable: Cable, order: number): string =>
  `~held:${cable.id ?? `${order}:${cable.from}:${cable.to}`.replaceAll('.', ':')}`

/** Passages as a graph: their keys in an order in which each comes after what it passes on, circles cut. */
export const passagesOf = (
  ending: Map<string, Ending[]>,
): { readonly keys: readonly string[]; readonly held: Map<string, HeldCable & { readonly key: string }> } => {
  const numbers = new Map<string, number>()
  for (const list of ending.values())
    for (const { through } of list)
      if (through !== undefined && !numbers.has(through)) numbers.set(through, numbers.size)
  const keys = [...numbers.keys()]
  const joins = keys.flatMap((key, to) =>
    (ending.get(key) ?? []).flatMap((item) =>
      item.through === undefined ? [] : [{ from: numbers.get(item.through)!, to, order: item.order, item }],
    ),
  )
  const none = keys.map((): number[] => [])
  const whole = components(keys.length, withCables(none, joins)),
    closing = closingCables(none, joins, whole)
  const held = new Map<string, HeldCable & { key: string }>()
  if (closing.length > 0) {
    const { of } = whole
    for (const { from, to, item } of closing) {
      const circle = joins.filter((join) => of[join.from] === of[from] && of[join.to] === of[to])
      const names = circle.flatMap(({ item: { cable } }) =>
        [cable.from, cable.to].map((end) => end.split('.')[0]!),
      )
      const { cable, order } = item
      const id = heldId(cable, order)
      held.set(id, { name: `${cable.from} > ${cable.to}`, modules: [...new Set(names)], key: item.through! })
      const list = ending.get(keys[to]!)!
      list[list.indexOf(item)] = { ...item, module: id, port: 'out', through: undefined }
    }
  }
  const cut = new Set(closing)
  const edges = none.map((list) => [...list])
  for (const join of joins) if (!cut.has(join)) edges[join.from]!.push(join.to)
  return { keys: topological([...keys.keys()], edges).map((number) => keys[number]!), held }
}
