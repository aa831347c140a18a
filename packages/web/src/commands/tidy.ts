/** Tidy: cards are laid out anew, all of them or those that are selected, in one step. */
import type { App } from '../app/app.ts'
import type { Command } from './command.ts'

/** After so long it is said that there is work going on. */
const PATIENCE_MS = 400

const tidy = async (app: App): Promise<void> => {
  const { document, workspace, chart, notifier, tidier, clock } = app
  const { patch } = document.getState(),
    { selection } = workspace.getState()
  const ids = selection.length > 1 ? new Set(selection) : undefined
  if (tidier.isBusy) return
  let note: ReturnType<typeof notifier.working> | undefined
  const waiting = clock.wait(PATIENCE_MS, () => {
    note = notifier.working(`Tidying ${ids?.size ?? patch.modules.length} modules`)
  })
  try {
    const places = await tidier.tidied(patch, chart.room(), ids)
    const { patch: now, change } = document.getState()
    const moved = new Map(
      now.modules.flatMap(({ id, x, y }) => {
        const place = places.get(id)
        return place && (place.x !== x || place.y !== y) ? [[id, { x: x ?? 0, y: y ?? 0 }] as const] : []
      }),
    )
    if (moved.size > 0)
      change(ids ? `Tidy ${ids.size} modules` : 'Tidy the patch', (draft) => {
        for (const module of draft.modules) Object.assign(module, places.get(module.id))
      })
    note?.success(moved.size > 0 ? 'Tidied' : 'It was tidy already')
    if (!ids) chart.fit()
    chart.glide(moved)
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
    can: (app) => app.document.getState().patch.modules.length > 0 || 'The bench is empty.',
    run: (app) => void tidy(app),
  },
]
