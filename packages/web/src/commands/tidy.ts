/** Tidy: cards are laid out anew, all of them or those that are selected, in one step. */
import { marksOf, type PatchModule, placeMarks, placeModules, type Rect } from '@ypsilon/core'
import type { App } from '../app/app.ts'
import { levelNow } from '../app/level.ts'
import type { Command } from './command.ts'
import { marksLevel } from './marks.ts'

/** After so long it is said that there is work going on. */
const PATIENCE_MS = 400

type Spot = Pick<Rect, 'x' | 'y'>

/** New places of those that stand elsewhere. */
const otherPlaces = (
  modules: readonly PatchModule[],
  places: ReadonlyMap<string, Spot>,
): ReadonlyMap<string, Spot> =>
  new Map(
    modules.flatMap(({ id, x, y }) => {
      const place = places.get(id)
      return place && (place.x !== x || place.y !== y) ? [[id, { x: x ?? 0, y: y ?? 0 }] as const] : []
    }),
  )

const isSameRect = (a: Rect, b: Rect): boolean =>
  a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height

/** Frames and notes that stand elsewhere, or are of another size. */
const otherMarks = (
  { frames, notes }: ReturnType<typeof marksOf>,
  rects: ReadonlyMap<string, Rect>,
): readonly string[] =>
  [...frames, ...notes].flatMap((mark) => (isSameRect(mark, rects.get(mark.id) ?? mark) ? [] : [mark.id]))

const tidy = async (app: App): Promise<void> => {
  const { document, workspace, chart, notifier, tidier, clock } = app
  const patch = levelNow(app),
    { selection } = workspace.getState()
  const ids = selection.length > 1 ? new Set(selection) : undefined
  if (tidier.isBusy) return
  let note: ReturnType<typeof notifier.working> | undefined
  const waiting = clock.wait(PATIENCE_MS, () => {
    note = notifier.working(`Tidying ${ids?.size ?? patch.modules.length} modules`)
  })
  try {
    const { modules, marks } = await tidier.tidied(patch, chart.room(), ids)
    const { change } = document.getState(),
      now = levelNow(app)
    const moved = otherPlaces(now.modules, modules),
      others = otherMarks(marksOf(now), marks)
    const isOther = moved.size + others.length > 0
    if (isOther)
      change(ids ? `Tidy ${ids.size} modules` : 'Tidy the patch', (draft) => {
        placeModules(draft, modules)
        placeMarks(marksLevel(app, draft), marks)
      })
    note?.success(isOther ? 'Tidied' : 'It was tidy already')
    if (!ids) chart.fit()
    chart.glide(moved, others)
  } catch (error) {
    const words = error instanceof Error ? error.message : String(error)
    if (note) note.error(words)
    else notifier.error(words)
  } finally {
    clock.cancel(waiting)
  }
}

export const TIDY_COMMANDS: readonly Command[] = [
  {
    id: 'tidy',
    label: 'Tidy',
    group: 'Edit',
    keys: ['Ctrl+L'],
    views: ['bench'],
    places: ['chart', 'module'],
    can: (app) => levelNow(app).modules.length > 0 || 'There is nothing to tidy.',
    run: (app) => void tidy(app),
  },
]
