/** Cards of a patch as the chart's nodes. */
import { type Patch, splitTarget } from '@ypsilon/core'
import { type NodeHandle, Position } from '@xyflow/react'
import type { CardNode } from './card.tsx'
import {
  boxOf,
  CARD_WIDTH,
  cardLayout,
  type CardLayout,
  inputPoint,
  outputPoint,
  rowName,
  takesCable,
} from './geometry.ts'
import type { Point } from './routing.ts'

/** Names of every module's ports that cables start on or end on, as one text. */
const namesAt = (patch: Patch, end: 'from' | 'to'): Map<string, string> => {
  const names = new Map<string, Set<string>>()
  for (const cable of patch.cables) {
    const [id, name] = splitTarget(cable[end]) ?? []
    if (id === undefined || name === undefined) continue
    const found = names.get(id)
    if (found) found.add(name)
    else names.set(id, new Set([name]))
  }
  return new Map([...names].map(([id, found]) => [id, [...found].join(' ')]))
}

const PORT = 11
/** Where a card's ports stand: with them the chart need not draw every card once to know. */
const handlesOf = (layout: CardLayout): NodeHandle[] => {
  const handle = (id: string, type: 'source' | 'target', { x, y }: Point): NodeHandle => ({
    id,
    type,
    position: type === 'source' ? Position.Right : Position.Left,
    x: x - PORT / 2,
    y: y - PORT / 2,
    width: PORT,
    height: PORT,
  })
  return [
    ...layout.rows
      .filter(takesCable)
      .map((row) => handle(rowName(row), 'target', inputPoint(layout, 0, 0, rowName(row)))),
    ...layout.outputs.map(({ name }) => handle(name, 'source', outputPoint(layout, 0, 0, name))),
  ]
}

const isSame = (was: CardNode, next: CardNode): boolean =>
  was.data.module === next.data.module &&
  was.data.inputs === next.data.inputs &&
  was.data.outputs === next.data.outputs &&
  was.selected === next.selected &&
  was.height === next.height &&
  was.position.x === next.position.x &&
  was.position.y === next.position.y

/** Cards of a patch; those that did not change keep their object, so that only changed cards render. */
export const nodesOf = (
  patch: Patch,
  before: readonly CardNode[],
  selection: ReadonlySet<string>,
  open: ReadonlySet<string>,
): CardNode[] => {
  const old = new Map(before.map((node) => [node.id, node])),
    ending = namesAt(patch, 'to'),
    starting = namesAt(patch, 'from')
  return patch.modules.map((module) => {
    const was = old.get(module.id)
    const layout = cardLayout(patch, module, open.has(module.id))
    const next: CardNode = {
      ...was,
      id: module.id,
      type: 'card',
      position: { x: module.x ?? 0, y: module.y ?? 0 },
      data: {
        module,
        inputs: ending.get(module.id) ?? '',
        outputs: starting.get(module.id) ?? '',
      },
      selected: selection.has(module.id),
      width: CARD_WIDTH,
      height: layout.height,
      handles: handlesOf(layout),
      dragHandle: '.head',
      // The card itself takes the focus.
      focusable: false,
    }
    return was && isSame(was, next) ? was : next
  })
}

/** No patch is shown smaller; one that would have to be half as small is shown from its beginning. */
const LEAST_FIT = 0.25
const START_ZOOM = 0.5
/** Pixels that stay free around a patch shown whole. */
const MARGIN = 24

export interface View {
  readonly x: number
  readonly y: number
  readonly zoom: number
}

/** The view of a frame that shows a whole patch or some of its modules; or the beginning of what is far too large. */
export const wholeView = (
  patch: Patch,
  { width, height }: { readonly width: number; readonly height: number },
  ids?: readonly string[],
): View => {
  const wanted = ids && new Set(ids)
  const boxes = patch.modules
    .filter((module) => wanted?.has(module.id) ?? true)
    .map((module) => boxOf(cardLayout(patch, module, false), module.x ?? 0, module.y ?? 0))
  if (boxes.length === 0) return { x: MARGIN, y: MARGIN, zoom: 1 }
  const least = (edge: 'left' | 'top'): number =>
    boxes.reduce((most, box) => Math.min(most, box[edge]), Infinity)
  const most = (edge: 'right' | 'bottom'): number =>
    boxes.reduce((all, box) => Math.max(all, box[edge]), -Infinity)
  const [left, top, right, bottom] = [least('left'), least('top'), most('right'), most('bottom')]
  const fits = Math.min((width - 2 * MARGIN) / (right - left), (height - 2 * MARGIN) / (bottom - top), 1)
  if (fits < LEAST_FIT / 2)
    return { x: MARGIN - left * START_ZOOM, y: MARGIN - top * START_ZOOM, zoom: START_ZOOM }
  const zoom = Math.max(fits, LEAST_FIT)
  return { x: (width - (left + right) * zoom) / 2, y: (height - (top + bottom) * zoom) / 2, zoom }
}
