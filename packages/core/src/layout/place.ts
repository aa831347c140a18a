/** Places for modules that have none: of files written by hand, and of what comes from elsewhere. */
import { closingCables, topological } from '../patch/graph.ts'
import type { Patch } from '../patch/types.ts'
import { CARD_WIDTH, cardHeight } from './card.ts'
import { COLUMN_GAP, type Room } from './lines.ts'
import { cardRect, isPlaced, nearestFree, type Place, type Rect } from './free.ts'
import type { Layers } from './layers.ts'
import { type Sketch, sketchOf } from './sketch.ts'
import { quickEffort, tidyPlaces } from './tidy.ts'

/** The chart of a window of 1280 × 800 without its margins: what a patch is laid out for that is not yet seen. */
export const ROOM: Room = { width: 899, height: 523 }

/** Layers by the longest way from the sources; links that close loops do not count. In file order. */
export const depthLayers = ({ nodes, links }: Sketch): Layers => {
  const edges = nodes.map((): number[] => [])
  const ordered = links.map(({ from, to }, order) => ({ from, to, order }))
  const closing = new Set(closingCables(edges, ordered))
  for (const link of ordered) if (!closing.has(link)) edges[link.from]!.push(link.to)
  const layer = nodes.map(() => 0)
  for (const node of topological([...edges.keys()], edges))
    for (const next of edges[node]!) layer[next] = Math.max(layer[next]!, layer[node]! + 1)
  return { layer, order: [...nodes.keys()] }
}

/** Those without a place beside what they hang on, from the sources on. */
const besideOthers = (patch: Patch): Map<string, Place> => {
  const sketch = sketchOf(patch),
    { layer } = depthLayers(sketch)
  const rects = new Map<number, Rect>()
  patch.modules.forEach((module, node) => {
    if (isPlaced(module)) rects.set(node, cardRect(patch, module))
  })
  const places = new Map<string, Place>()
  const inOrder = [...sketch.nodes.keys()]
    .filter((node) => !rects.has(node))
    .sort((a, b) => layer[a]! - layer[b]! || a - b)
  for (const node of inOrder) {
    const feeder = sketch.links.find(({ from, to }) => to === node && rects.has(from)),
      fed = sketch.links.find(({ from, to }) => from === node && rects.has(to))
    const { x = 0, y = 0 } = rects.get(feeder?.from ?? fed?.to ?? -1) ?? {}
    const step = CARD_WIDTH + COLUMN_GAP,
      beside = feeder ? step : fed ? -step : 0
    const size = { width: CARD_WIDTH, height: cardHeight(patch, patch.modules[node]!) }
    const place = nearestFree([...rects.values()], { x: x + beside, y, ...size })
    rects.set(node, { ...place, ...size })
    places.set(patch.modules[node]!.id, place)
  }
  return places
}

/** Places the modules that have no position: all of them laid out, or some beside what they are connected to. */
export const placed = (patch: Patch): Patch => {
  if (patch.modules.every(isPlaced)) return patch
  let places: Map<string, Place>
  if (patch.modules.some(isPlaced)) places = besideOthers(patch)
  else {
    const sketch = sketchOf(patch),
      found = tidyPlaces(sketch, depthLayers(sketch), ROOM, quickEffort(sketch.nodes.length))
    places = new Map(sketch.nodes.map(({ id }, node) => [id, found[node]!]))
  }
  return {
    ...patch,
    modules: patch.modules.map((module) => {
      const place = places.get(module.id)
      return place ? { ...module, ...place } : module
    }),
  }
}
