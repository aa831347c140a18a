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

/** Most columns of a line. */
const COLUMNS = 25
/** Between two lines there is room for cables. */
const LINE_GAP = 40
/** The room a patch is looked at in, and how wide a card is: lines are as long as shows it largest. */
const ROOM = { width: 940, height: 560 },
  CARD = 192

interface Place {
  readonly x: number
  readonly y: number
}
/** The nearest place on the grid. */
export const snap = (value: number): number => Math.round(value / GRID) * GRID
const isPlaced = (module: PatchModule): boolean => module.x !== undefined && module.y !== undefined

/** Modules without a position, by the line they come to stand in. */
const linesOf = (
  modules: readonly PatchModule[],
  depth: ReadonlyMap<string, number>,
  columns: number,
): Map<number, PatchModule[]> => {
  const lines = new Map<number, PatchModule[]>()
  for (const module of modules) {
    if (isPlaced(module)) continue
    const line = Math.floor(depth.get(module.id)! / columns),
      there = lines.get(line)
    if (there) there.push(module)
    else lines.set(line, [module])
  }
  return lines
}

interface Layout {
  readonly places: ReadonlyMap<string, Place>
  /** How large it is shown in the room. */
  readonly zoom: number
}

/** Columns by how far modules are from the sources; a chain longer than a line goes on below, like a text. */
const laidOut = (
  { modules }: Patch,
  heights: ReadonlyMap<string, number>,
  depth: ReadonlyMap<string, number>,
  columns: number,
): Layout => {
  const bottoms = new Map<number, number>(),
    places = new Map<string, Place>()
  for (const module of modules) {
    if (!isPlaced(module)) continue
    const column = Math.round(module.x! / COLUMN)
    bottoms.set(column, Math.max(bottoms.get(column) ?? 0, module.y! + heights.get(module.id)! + GAP))
  }
  let bottom = 0
  for (const [line, inLine] of [...linesOf(modules, depth, columns)].sort(([a], [b]) => a - b)) {
    for (const reached of bottoms.values()) bottom = Math.max(bottom, reached)
    const top = line === 0 || bottom === 0 ? 0 : bottom + LINE_GAP - GAP
    for (const module of inLine) {
      const column = depth.get(module.id)! % columns,
        y = Math.max(top, bottoms.get(column) ?? 0)
      bottoms.set(column, y + heights.get(module.id)! + GAP)
      places.set(module.id, { x: snap(column * COLUMN), y: snap(y) })
    }
  }
  const right = [...bottoms.keys()].reduce((most, column) => Math.max(most, column), 0) * COLUMN + CARD,
    down = [...bottoms.values()].reduce((most, at) => Math.max(most, at), 0)
  return { places, zoom: Math.min(ROOM.width / right, ROOM.height / down) }
}

/** Places the modules that have no position: columns by how far they are from the sources, in file order. */
export const placed = (patch: Patch): Patch => {
  if (patch.modules.every(isPlaced)) return patch
  const depth = depths(patch),
    heights = new Map(patch.modules.map((module) => [module.id, cardHeight(patch, module)]))
  const longest = Math.min(COLUMNS, [...depth.values()].reduce((most, at) => Math.max(most, at), 0) + 1)
  let best = laidOut(patch, heights, depth, longest)
  // What is placed already has its own shape.
  if (!patch.modules.some(isPlaced))
    for (let columns = longest - 1; columns >= 2; columns -= 1) {
      const next = laidOut(patch, heights, depth, columns)
      if (next.zoom > best.zoom) best = next
    }
  return {
    ...patch,
    modules: patch.modules.map((module) => {
      const place = best.places.get(module.id)
      return place ? { ...module, ...place } : module
    }),
  }
}
