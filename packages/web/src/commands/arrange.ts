/** Commands that line up what is selected, or space it evenly. */
import { CARD_WIDTH, cardLayout, patchIndex, placeModules, usedRows } from '@ypsilon/core'
import { aligned, type Axis, type Edge, type PlacedBox, spaced } from '@ypsilon/core/layout/arrange.ts'
import type { App } from '../app/app.ts'
import { levelNow } from '../app/level.ts'
import type { Command } from './command.ts'

/** Cards of what is selected, as they are seen. */
const boxesOf = (app: App): PlacedBox[] => {
  const level = levelNow(app),
    { selection, open } = app.workspace.getState(),
    { module: modules } = patchIndex(level)
  return selection.flatMap((id) => {
    const module = modules.get(id)
    if (!module) return []
    const { height } = cardLayout(module, usedRows(level, module), open.has(id))
    return [{ id, x: module.x ?? 0, y: module.y ?? 0, width: CARD_WIDTH, height }]
  })
}

const arranging =
  (words: string, placesOf: (boxes: readonly PlacedBox[]) => ReturnType<typeof aligned>) =>
  (app: App): void => {
    const places = placesOf(boxesOf(app))
    if (places.size === 0) return
    app.document.getState().change(words, (draft) => {
      placeModules(draft, places)
    })
  }

const needs =
  (count: number, words: string) =>
  (app: App): true | string =>
    app.workspace.getState().selection.length >= count || words

const aligning = (edge: Edge, label: string, key?: string): Command => ({
  id: `align-${edge}`,
  label,
  group: 'Edit',
  ...(key === undefined ? {} : { keys: [key] }),
  views: ['bench'],
  can: needs(2, 'Select two modules at least.'),
  run: arranging(label, (boxes) => aligned(boxes, edge)),
})
const spacing = (axis: Axis, label: string): Command => ({
  id: `space-${axis}`,
  label,
  group: 'Edit',
  views: ['bench'],
  can: needs(3, 'Select three modules at least.'),
  run: arranging(label, (boxes) => spaced(boxes, axis)),
})

export const ARRANGE_COMMANDS: readonly Command[] = [
  aligning('left', 'Line up left edges', 'Alt+Shift+ArrowLeft'),
  aligning('right', 'Line up right edges', 'Alt+Shift+ArrowRight'),
  aligning('top', 'Line up tops', 'Alt+Shift+ArrowUp'),
  aligning('bottom', 'Line up bottoms', 'Alt+Shift+ArrowDown'),
  aligning('middle', 'Put on one level'),
  aligning('centre', 'Put one under the other'),
  spacing('across', 'Space evenly across'),
  spacing('down', 'Space evenly down'),
]
