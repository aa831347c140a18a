import { CATALOGUE } from '../catalogue.ts'
import { closingCables, topological } from './graph.ts'
import type { Patch, PatchModule } from './types.ts'
import { splitTarget } from './walk.ts'
import { own } from '../units/own.ts'

const COLUMN = 256
const GAP = 28
const HEAD = 26,
  ROW = 27,
  OUT_ROW = 24
/** The canvas' grid: positions snap to a quarter of the chart's crosses. */
export const GRID = 12

/** Rows a card shows in its brief form: what stands in front, what is connected, what differs from its default. */
export const briefRows = (module: PatchModule, used: ReadonlySet<string>): Set<string> => {
  const description = CATALOGUE.get(module.type)?.description
  const rows = new Set<string>(description?.front ?? [])
  for (const name of used) rows.add(name)
  for (const param of description?.params ?? []) {
    const value = own(module.params, param.name)
    if (value !== undefined && value !== param.default) rows.add(param.name)
  }
  return rows
}

const NO_NAMES: ReadonlySet<string> = new Set()
/** By the list of cables: edits of anything else keep it. */
const usedBefore = new WeakMap<Patch['cables'], ReadonlyMap<string, ReadonlySet<string>>>()

/** Names of a module's ports and parameters that cables end or start on. */
export const usedNames = (patch: Patch, id: string): ReadonlySet<string> => {
  let used = usedBefore.get(patch.cables)
  if (!used) {
    const found = new Map<string, Set<string>>()
    for (const cable of patch.cables)
      for (const end of [cable.from, cable.to]) {
        const [module, name] = splitTarget(end) ?? []
        if (module === undefined || name === undefined) continue
        const names = found.get(module)
        if (names) names.add(name)
        else found.set(module, new Set([name]))
      }
    used = found
    usedBefore.set(patch.cables, used)
  }
  return used.get(id) ?? NO_NAMES
}

/** Height of a card in its brief form, in canvas pixels. */
export const cardHeight = (patch: Patch, module: PatchModule): number => {
  const description = CATALOGUE.get(module.type)?.description
  if (!description) return HEAD + ROW
  const rows = briefRows(module, usedNames(patch, module.id))
  const outputs = description.outputs.filter((port) => rows.has(port.name)).length
  return HEAD + (rows.size - outputs) * ROW + outputs * OUT_ROW + 8
}

/** Longest way of every module from the sources, in cables; those that close loops do not count. */
const depths = (patch: Patch): Map<string, number> => {
  const numbers = new Map(patch.modules.map((module, number) => [module.id, number]))
  const cables = patch.cables.flatMap(({ from, to }, order) => {
    const [a, b] = [from, to].map((end) => numbers.get(splitTarget(end)?.[0] ?? ''))
    return a === undefined || b === undefined ? [] : [{ from: a, to: b, order }]
  })
  const edges = patch.modules.map((): number[] => [])
  const closing = new Set(closingCables(edges, cables))
  for (const cable of cables) if (!closing.has(cable)) edges[cable.from]!.push(cable.to)
  const depth = edges.map(() => 0)
  for (const node of topological([...edges.keys()], edges))
    for (const next of edges[node]!) depth[next] = Math.max(depth[next]!, depth[node]! + 1)
  return new Map(patch.modules.map((module, number) => [module.id, depth[number]!]))
}

/** Columns of a line. */
const COLUMNS = 25

/** Places the modules that have no position: columns by how far they are from the sources, in file order. */
export const placed = (patch: Patch): Patch => {
  if (patch.modules.every((module) => module.x !== undefined && module.y !== undefined)) return patch
  const depth = depths(patch)
  const snap = (value: number): number => Math.round(value / GRID) * GRID
  const isPlaced = (module: PatchModule): boolean => module.x !== undefined && module.y !== undefined
  const bottoms = new Map<number, number>()
  for (const module of patch.modules) {
    if (!isPlaced(module)) continue
    const column = Math.round(module.x! / COLUMN)
    bottoms.set(column, Math.max(bottoms.get(column) ?? 0, module.y! + cardHeight(patch, module) + GAP))
  }
  // A chain longer than a line goes on in the next one below, like a text.
  const lines = new Map<number, PatchModule[]>()
  for (const module of patch.modules) {
    if (isPlaced(module)) continue
    const line = Math.floor(depth.get(module.id)! / COLUMNS)
    lines.set(line, [...(lines.get(line) ?? []), module])
  }
  const places = new Map<string, { readonly x: number; readonly y: number }>()
  for (const [line, modules] of [...lines].sort(([a], [b]) => a - b)) {
    const top = line === 0 ? 0 : Math.max(0, ...bottoms.values())
    for (const module of modules) {
      const column = depth.get(module.id)! % COLUMNS
      const y = Math.max(top, bottoms.get(column) ?? 0)
      bottoms.set(column, y + cardHeight(patch, module) + GAP)
      places.set(module.id, { x: snap(column * COLUMN), y: snap(y) })
    }
  }
  return {
    ...patch,
    modules: patch.modules.map((module) => {
      const place = places.get(module.id)
      return place ? { ...module, ...place } : module
    }),
  }
}
