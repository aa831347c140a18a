import { type Catalogue, partOf } from '../catalogue.ts'
import type { Cable, Patch, PatchModule } from '../patch/types.ts'
import { fieldFormulas, formulaText, referencesOf } from '../patch/formulas.ts'
import { groupPorts, patchIndex, type PatchIndex } from '../patch/index.ts'
import { endsOf, portName } from '../patch/walk.ts'
import { closingCables, components, topological } from '../patch/graph.ts'

/** A source that ends on an input, after groups, buses and bypassed modules are dissolved. */
export interface Feed {
  /** `module.port`. */
  readonly from: string
  readonly module: string
  readonly port: string
  readonly amount: number
  /** Id of the cable whose amount may be set while playing. */
  readonly cable: string | undefined
  /** What that cable's amount is multiplied by on the way. */
  readonly scale: number
  /** The cable's place in file order. */
  readonly order: number
  /** Text of the last cable, for reports: `a.out > b.in`. */
  readonly name: string
  /** Its name as a term, where it is the first of its source on an input. */
  readonly lasting: string
  /** Gives a parameter its base value: from a formula in its field. */
  readonly base: boolean
}

/** A circle of buses, group ports and bypassed modules alone: one of its cables is held back by a sample. */
export interface HeldCable {
  readonly name: string
  /** What the circle is made of, by id. */
  readonly modules: readonly string[]
}

export interface FlatPatch {
  readonly modules: readonly PatchModule[]
  readonly byId: ReadonlyMap<string, PatchModule>
  /** Everything that ends on `module.port`, in file order. */
  readonly feeds: ReadonlyMap<string, readonly Feed[]>
  /** Module that each hidden formula gives a value to: it takes its shape. */
  readonly serves: ReadonlyMap<string, string>
  /** Unit delays put into circles that hold no module, by their hidden ids. */
  readonly held: ReadonlyMap<string, HeldCable>
  /** Cables whose amount appears in many feeds but is the one to set in none: changing it needs a new plan. */
  readonly shadowed: ReadonlySet<string>
  /** Where more connections meet than can be played; then `feeds` is not complete. */
  readonly overfull?: string
}

const NO_FEEDS: readonly Feed[] = []
/** Field formulas come after all cables of the file. */
const FORMULA_ORDER = 1e6
const formulaData = new Map<string, { readonly text: string }>()

/** Id of the hidden module behind a macro that formulas name. */
export const macroModule = (id: string): string => `~macro:${id}`

/** Hidden modules and cables that stand for field formulas, and for the macros they name. */
const hiddenFormulas = (
  patch: Patch,
  catalogue: Catalogue,
): { modules: PatchModule[]; cables: Cable[]; serves: Map<string, string> } => {
  const modules = new Map<string, PatchModule>(),
    cables: Cable[] = [],
    serves = new Map<string, string>()
  const { macro: macros } = patchIndex(patch)
  for (const { module, param, value } of fieldFormulas(patch, catalogue)) {
    const id = `~f:${module.id}:${param}`
    const text = formulaText(value)
    const data = formulaData.get(text) ?? { text }
    formulaData.set(text, data)
    modules.set(id, { id, type: partOf(catalogue, 'expression').description.type, data })
    serves.set(id, module.id)
    cables.push({ from: `${id}.x`, to: `${module.id}.${param}` })
    referencesOf(value).forEach((target, index) => {
      const macro = target.startsWith('macro:') ? macros.get(target.slice(6)) : undefined
      if (macro)
        modules.set(macroModule(macro.id), {
          id: macroModule(macro.id),
          type: partOf(catalogue, 'value').description.type,
          params: { value: macro.value },
        })
      cables.push({ from: macro ? `${macroModule(macro.id)}.out` : target, to: `${id}.i${index + 1}` })
    })
  }
  return { modules: [...modules.values()], cables, serves }
}

/** Sources that may come together through buses and groups in one patch, counted once for every input they end on. */
export const MOST_FEEDS = 250_000

/** Key of what all sends to a bus share. */
const busOf = (module: PatchModule): string => `bus:${String(module.params?.['bus'] ?? 'bus')}`

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
  if (module.type === 'group') {
    const inner = groupPorts(module).out.get(port)
    return inner === undefined ? '' : `${inner}.in`
  }
  if (module.type === 'portin') {
    const group = parent.get(module.id)
    return group ? `${group.id}.${portName(module)}` : ''
  }
  const description = catalogue.get(module.type)?.description
  if (description?.part === 'receive') return busOf(module)
  const bypass = description?.bypass
  if (module.bypass && bypass) return bypass.to === port ? `${module.id}.${bypass.from}` : ''
  return description ? undefined : ''
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
interface Ending {
  readonly cable: Cable
  readonly order: number
  readonly module: string
  readonly port: string
  /** Key of what it passes on; undefined for real outputs. */
  readonly through: string | undefined
}

/** Everything that ends somewhere, by where; muted cables and those from nowhere are left out. */
const endings = (
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
    const key = endOf(cable, byId, catalogue)
    const list = ending.get(key),
      item = { cable, order, module: fromModule, port: fromPort, through }
    if (list) list.push(item)
    else ending.set(key, [item])
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
const passagesOf = (
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
  const closing = closingCables(keys.length, none, joins)
  const held = new Map<string, HeldCable & { key: string }>()
  if (closing.length > 0) {
    const all = keys.map((): number[] => [])
    for (const { from, to } of joins) all[from]!.push(to)
    const { of } = components(keys.length, all)
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

/** Adds up what comes the same way: from one source, with the same cable to set. */
const merged = (feeds: readonly Feed[]): Feed[] => {
  const ways = new Map<string, Feed>()
  for (const feed of feeds) {
    const way = `${feed.from} ${feed.cable ?? ''}`
    const same = ways.get(way)
    ways.set(
      way,
      same ? { ...same, amount: same.amount + feed.amount, scale: same.scale + feed.scale } : feed,
    )
  }
  return [...ways.values()]
}

const direct = new WeakMap<Cable, Feed>()

/** A cable from a real output; the same object from patch to patch while nothing about it changes. */
const directFeed = (cable: Cable, order: number, base: boolean, from: string): Feed => {
  const last = direct.get(cable)
  if (last && last.order === order && last.base === base && last.from === from) return last
  const amount = cable.amount ?? 1,
    dot = from.indexOf('.')
  const feed: Feed = {
    from,
    module: from.slice(0, dot),
    port: from.slice(dot + 1),
    lasting: `${from}#0`,
    amount,
    cable: cable.id,
    scale: cable.id === undefined ? amount : 1,
    order,
    name: `${cable.from} > ${cable.to}`,
    base,
  }
  direct.set(cable, feed)
  return feed
}

const known = new WeakMap<Patch, { readonly flat: FlatPatch; readonly catalogue: Catalogue }>()

/** Dissolves groups, buses, bypassed and unknown modules, and muted cables. Once for a patch; costs nothing while playing. */
export const flatten = (patch: Patch, catalogue: Catalogue): FlatPatch => {
  const before = known.get(patch)
  if (before?.catalogue === catalogue) return before.flat
  const flat = dissolved(patch, catalogue)
  known.set(patch, { flat, catalogue })
  return flat
}

/** What comes together at each key: sources of cables, and what they pass on. One for a patch. */
class Gathering {
  readonly shadowed = new Set<string>()
  /** What is passed on by everything that is dissolved. */
  readonly passed = new Map<string, readonly Feed[]>()
  overfull: string | undefined
  private count = 0

  constructor(
    private readonly ending: ReadonlyMap<string, readonly Ending[]>,
    /** Hidden formulas: what they bring is a base value. */
    private readonly formulas: ReadonlyMap<string, string>,
    private readonly held: ReadonlyMap<string, HeldCable>,
  ) {}

  /** Everything that ends at a key, in file order; not all of it where more meets than can be played. */
  at(key: string): Feed[] {
    const found: Feed[] = []
    for (const item of this.ending.get(key) ?? []) {
      const sources = item.through === undefined ? undefined : (this.passed.get(item.through) ?? NO_FEEDS)
      this.count += sources?.length ?? 1
      if (this.count > MOST_FEEDS) {
        this.overfull ??= key
        return found
      }
      if (sources) for (const feed of sources) found.push(this.passedOn(item, feed))
      else found.push(this.direct(item))
    }
    return found
  }

  private direct({ cable, order, module, port }: Ending): Feed {
    const base = this.formulas.has(module) || cable['base'] === true
    return directFeed(cable, order, base, this.held.has(module) ? `${module}.${port}` : cable.from)
  }

  /** A source as it comes through one more cable: the first one that has an id is the one to set. */
  private passedOn({ cable, order }: Ending, feed: Feed): Feed {
    const amount = cable.amount ?? 1,
      isSet = feed.cable !== undefined
    if (isSet && cable.id !== undefined) this.shadowed.add(cable.id)
    return {
      ...feed,
      amount: amount * feed.amount,
      cable: feed.cable ?? cable.id,
      scale: isSet || cable.id === undefined ? amount * feed.scale : feed.scale,
      order,
      name: `${cable.from} > ${cable.to}`,
    }
  }
}

/** Does a module run, or is it dissolved? */
const runs = (module: PatchModule, catalogue: Catalogue): boolean => {
  const description = catalogue.get(module.type)?.description
  return description !== undefined && !description.flattened && !(module.bypass && description.bypass)
}

/** Feeds of every input of modules that run. */
const feedsOf = (
  gathering: Gathering,
  ending: ReadonlyMap<string, readonly Ending[]>,
  kept: ReadonlyMap<string, PatchModule>,
  catalogue: Catalogue,
): Map<string, readonly Feed[]> => {
  const feeds = new Map<string, readonly Feed[]>()
  for (const [key, [first]] of ending) {
    // What is dissolved has keys of its own.
    if (key !== first!.cable.to) continue
    const { toModule, toPort } = endsOf(first!.cable),
      module = kept.get(toModule)
    if (!module || !catalogue.get(module.type)!.slots.inputs.has(toPort)) continue
    const found = gathering.at(key)
    if (found.length > 0) feeds.set(key, found)
  }
  return feeds
}

const dissolved = (patch: Patch, catalogue: Catalogue): FlatPatch => {
  const hidden = hiddenFormulas(patch, catalogue),
    index = patchIndex(patch)
  const all = [...index.modules.map(({ module }) => module), ...hidden.modules]
  const byId = new Map(all.map((module) => [module.id, module]))
  const ending = endings(hidden.cables, byId, catalogue, index)
  const { keys, held } = passagesOf(ending)
  const gathering = new Gathering(ending, hidden.serves, held),
    { passed, shadowed } = gathering
  for (const key of keys) passed.set(key, merged(gathering.at(key)))
  const modules = all.filter((module) => runs(module, catalogue))
  for (const id of held.keys()) modules.push({ id, type: partOf(catalogue, 'unitdelay').description.type })
  const kept = new Map(modules.map((module) => [module.id, module]))
  const feeds = feedsOf(gathering, ending, kept, catalogue)
  for (const [id, { key }] of held) {
    const found = passed.get(key) ?? NO_FEEDS
    if (found.length > 0) feeds.set(`${id}.in`, found)
  }
  const flat = { modules, byId: kept, feeds, serves: hidden.serves, held, shadowed }
  return gathering.overfull === undefined ? flat : { ...flat, overfull: gathering.overfull }
}
