import { CATALOGUE } from '../catalogue.ts'
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

/** Names of a module's ports and parameters that cables end or start on. */
export const usedNames = (patch: Patch, id: string): Set<string> => {
  const names = new Set<string>()
  for (const cable of patch.cables) {
    for (const end of [cable.from, cable.to]) {
      const [module, name] = splitTarget(end) ?? []
      if (module === id && name !== undefined) names.add(name)
    }
  }
  return names
}

/** Height of a card in its brief form, in canvas pixels. */
export const cardHeight = (patch: Patch, module: PatchModule): number => {
  const description = CATALOGUE.get(module.type)?.description
  if (!description) return HEAD + ROW
  const rows = briefRows(module, usedNames(patch, module.id))
  const outputs = description.outputs.filter((port) => rows.has(port.name)).length
  return HEAD + (rows.size - outputs) * ROW + outputs * OUT_ROW + 8
}

/** Places the modules that have no position: columns by how far they are from the sources, in file order. */
export const placed = (patch: Patch): Patch => {
  if (patch.modules.every((module) => module.x !== undefined && module.y !== undefined)) return patch
  const depth = new Map(patch.modules.map((module) => [module.id, 0]))
  // Longest path from the sources; loops stop the climb after as many rounds as there are modules.
  for (let round = 0, moved = true; moved && round < patch.modules.length; round += 1) {
    moved = false
    for (const cable of patch.cables) {
      const from = splitTarget(cable.from)?.[0] ?? '',
        to = splitTarget(cable.to)?.[0] ?? ''
      const wanted = (depth.get(from) ?? 0) + 1
      if (from !== to && (depth.get(to) ?? 0) < wanted && wanted < patch.modules.length) {
        depth.set(to, wanted)
        moved = true
      }
    }
  }
  const snap = (value: number): number => Math.round(value / GRID) * GRID
  const bottoms = new Map<number, number>()
  for (const module of patch.modules) {
    if (module.x === undefined || module.y === undefined) continue
    const column = Math.round(module.x / COLUMN)
    bottoms.set(column, Math.max(bottoms.get(column) ?? 0, module.y + cardHeight(patch, module) + GAP))
  }
  const modules = patch.modules.map((module) => {
    if (module.x !== undefined && module.y !== undefined) return module
    const column = Math.min(depth.get(module.id)!, 24)
    const y = bottoms.get(column) ?? 0
    bottoms.set(column, y + cardHeight(patch, module) + GAP)
    return { ...module, x: snap(column * COLUMN), y: snap(y) }
  })
  return { ...patch, modules }
}
