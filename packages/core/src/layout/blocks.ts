/** Frames as a layout sees them: boxes that stand as one, with what is in them laid out for itself. */
import type { Patch } from '../patch/types.ts'
import { cardRect, type Place, type Rect } from './free.ts'
import { isWithin, marksOf } from './marks.ts'
import type { Sketch, SketchLink, SketchNode } from './sketch.ts'

/** A level, or a frame in it: what stands in it and in none of the frames within. */
export interface Part {
  /** The frame's id; none for the level as a whole. */
  readonly frame?: string
  readonly modules: string[]
  readonly parts: Part[]
  /** Notes, and frames that hold no module: nothing is wired to them. */
  readonly loose: string[]
}

const area = ({ width, height }: Rect): number => width * height

/**
 * The frames of a level as a tree. A thing belongs to the smallest frame that its middle is in.
 *
 * @param ids Only frames whose modules are all among these count, and only these modules.
 */
export const partsOf = (patch: Patch, ids?: ReadonlySet<string>): Part => {
  const { frames, notes } = marksOf(patch)
  const bySize = [...frames].sort((a, b) => area(a) - area(b))
  const top: Part = { modules: [], parts: [], loose: [] },
    parts = new Map(
      bySize.map(({ id }): [string, Part] => [id, { frame: id, modules: [], parts: [], loose: [] }]),
    )
  const holderOf = (rect: Rect, from = 0): Part => {
    const frame = bySize.slice(from).find((outer) => isWithin(rect, outer))
    return frame ? parts.get(frame.id)! : top
  }
  for (const module of patch.modules) holderOf(cardRect(patch, module)).modules.push(module.id)
  const holds = (part: Part): boolean => part.modules.length > 0 || part.parts.length > 0
  const isWhole = (part: Part): boolean =>
    part.modules.every((id) => ids?.has(id) ?? true) && part.parts.every(isWhole)
  // The smallest come first: by the time a frame is put into another it is known what it holds.
  bySize.forEach(({ id, ...rect }, at) => {
    const part = parts.get(id)!,
      holder = holderOf(rect, at + 1)
    if (holds(part)) holder.parts.push(part)
    else holder.loose.push(id)
  })
  for (const note of notes) holderOf(note).loose.push(note.id)
  if (!ids) return top
  const wholes: Part[] = []
  const pick = (part: Part): void => {
    if (part.frame !== undefined && isWhole(part)) wholes.push(part)
    else part.parts.forEach(pick)
  }
  top.parts.forEach(pick)
  const inWholes = new Set(wholes.flatMap(modulesOf))
  const modules = patch.modules.flatMap(({ id }) => (ids.has(id) && !inWholes.has(id) ? [id] : []))
  return { modules, parts: wholes, loose: [] }
}

/** All modules of a part, those in frames within included. */
export const modulesOf = (part: Part): string[] => [...part.modules, ...part.parts.flatMap(modulesOf)]

/** A box that has been laid out for itself. */
export interface Block extends SketchNode {
  /** Where its modules stand in it. */
  readonly places: ReadonlyMap<string, Place>
}

/** A sketch in which some modules stand as one box each; links within such a box are none of it. */
export const contracted = (sketch: Sketch, own: ReadonlySet<string>, blocks: readonly Block[]): Sketch => {
  const nodes: SketchNode[] = [],
    spots = new Map<string, { readonly node: number; readonly down: number }>()
  for (const node of sketch.nodes)
    if (own.has(node.id)) {
      spots.set(node.id, { node: nodes.length, down: 0 })
      nodes.push(node)
    }
  for (const { id, width, height, places } of blocks) {
    for (const [module, { y }] of places) spots.set(module, { node: nodes.length, down: y })
    nodes.push({ id, width, height })
  }
  const links = sketch.links.flatMap((link): SketchLink[] => {
    const from = spots.get(sketch.nodes[link.from]!.id),
      to = spots.get(sketch.nodes[link.to]!.id)
    if (!from || !to || from.node === to.node) return []
    return [{ ...link, from: from.node, to: to.node, fromY: from.down + link.fromY, toY: to.down + link.toY }]
  })
  return { nodes, links }
}
