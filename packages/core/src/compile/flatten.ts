import type { Catalogue } from '../catalogue.ts'
import type { Cable, Patch, PatchModule } from '../patch/types.ts'
import { fieldFormulas, formulaText, referencesOf } from '../patch/formulas.ts'
import { everyCable, everyModule, portName, splitTarget } from '../patch/walk.ts'

/** A source that ends on an input, after groups, buses and bypassed modules are dissolved. */
export interface Feed {
  readonly module: string
  readonly port: string
  readonly amount: number
  /** Id of the cable whose amount may be set while playing. */
  readonly cable: string | undefined
  /** The cable's place in file order. */
  readonly order: number
  /** Text of the last cable, for reports: `a.out > b.in`. */
  readonly name: string
  /** Gives a parameter its base value: from a formula in its field. */
  readonly base?: true
}

export interface FlatPatch {
  readonly modules: readonly PatchModule[]
  /** Everything that ends on `module.port`, in file order. */
  readonly feeds: ReadonlyMap<string, readonly Feed[]>
  /** Module that each hidden formula gives a value to: it takes its shape. */
  readonly serves: ReadonlyMap<string, string>
}

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
  for (const { module, param, value } of fieldFormulas(patch, catalogue)) {
    const id = `~f:${module.id}:${param}`
    const text = formulaText(value)
    const data = formulaData.get(text) ?? { text }
    formulaData.set(text, data)
    modules.set(id, { id, type: 'expression', data })
    serves.set(id, module.id)
    cables.push({ from: `${id}.x`, to: `${module.id}.${param}` })
    referencesOf(value).forEach((target, index) => {
      const macro = target.startsWith('macro:')
        ? patch.macros?.find((item) => item.id === target.slice(6))
        : undefined
      if (macro)
        modules.set(macroModule(macro.id), {
          id: macroModule(macro.id),
          type: 'value',
          params: { value: macro.value },
        })
      cables.push({ from: macro ? `${macroModule(macro.id)}.out` : target, to: `${id}.i${index + 1}` })
    })
  }
  return { modules: [...modules.values()], cables, serves }
}

/** Deeper chains of groups and buses than this can only be circles. */
const DEEPEST = 64

/**
 * Where a signal goes on when it comes to a port of something that is dissolved: the key under which its cables are
 * found. `undefined` for real outputs.
 */
const passage = (
  module: PatchModule,
  port: string,
  catalogue: Catalogue,
  parents: ReadonlyMap<string, PatchModule>,
): string | undefined => {
  if (module.type === 'group') {
    const inner = module.inside?.modules.find((item) => item.type === 'portout' && portName(item) === port)
    return inner ? `${inner.id}.in` : ''
  }
  if (module.type === 'portin') {
    const group = parents.get(module.id)
    return group ? `${group.id}.${portName(module)}` : ''
  }
  if (module.type === 'busout') return `bus:${String(module.params?.['bus'] ?? 'bus')}`
  const bypass = catalogue.get(module.type)?.description.bypass
  if (module.bypass && bypass) return bypass.to === port ? `${module.id}.${bypass.from}` : ''
  return catalogue.has(module.type) ? undefined : ''
}

const parentsOf = (patch: Patch): Map<string, PatchModule> => {
  const parents = new Map<string, PatchModule>()
  for (const { module } of everyModule(patch))
    for (const inner of module.inside?.modules ?? []) parents.set(inner.id, module)
  return parents
}

/** Dissolves groups, buses, bypassed and unknown modules, and muted cables. Costs nothing while playing. */
export const flatten = (patch: Patch, catalogue: Catalogue): FlatPatch => {
  const hidden = hiddenFormulas(patch, catalogue)
  const all = [...everyModule(patch).map(({ module }) => module), ...hidden.modules]
  const byId = new Map(all.map((module) => [module.id, module]))
  const parents = parentsOf(patch)
  const ending = new Map<string, { cable: Cable; order: number }[]>()
  everyCable(patch).forEach(({ cable }, order) => {
    if (cable.muted) return
    const [to = '', port = ''] = splitTarget(cable.to) ?? []
    const target = byId.get(to)
    const key =
      target?.type === 'busin' && port === 'in'
        ? `bus:${String(target.params?.['bus'] ?? 'bus')}`
        : target?.type === 'portout'
          ? `${to}.in`
          : cable.to
    const list = ending.get(key)
    if (list) list.push({ cable, order })
    else ending.set(key, [{ cable, order }])
  })
  hidden.cables.forEach((cable, index) => {
    const list = ending.get(cable.to)
    const item = { cable, order: FORMULA_ORDER + index }
    if (list) list.push(item)
    else ending.set(cable.to, [item])
  })
  const trace = (
    key: string,
    amount: number,
    id: string | undefined,
    last: { order: number; name: string } | undefined,
    depth: number,
  ): Feed[] =>
    (depth > DEEPEST ? [] : (ending.get(key) ?? [])).flatMap(({ cable, order }) => {
      const [from = '', port = ''] = splitTarget(cable.from) ?? []
      const module = byId.get(from)
      if (!module) return []
      const on = passage(module, port, catalogue, parents)
      const total = amount * (cable.amount ?? 1)
      const here = last ?? { order, name: `${cable.from} > ${cable.to}` }
      const settable = cable.id ?? id
      if (on === undefined)
        return [
          {
            module: from,
            port,
            amount: total,
            cable: settable,
            ...here,
            ...(hidden.serves.has(from) ? { base: true as const } : {}),
          },
        ]
      return on === '' ? [] : trace(on, total, settable, here, depth + 1)
    })
  const feeds = new Map<string, Feed[]>()
  const modules = all.filter((module) => {
    const description = catalogue.get(module.type)?.description
    return description !== undefined && !description.flattened && !(module.bypass && description.bypass)
  })
  const kept = new Set(modules)
  for (const key of ending.keys()) {
    const [id = '', name = ''] = splitTarget(key) ?? []
    const module = byId.get(id)
    if (!module || !kept.has(module) || !catalogue.get(module.type)!.slots.inputs.has(name)) continue
    const found = trace(key, 1, undefined, undefined, 0)
    if (found.length > 0) feeds.set(key, found)
  }
  return { modules, feeds, serves: hidden.serves }
}
