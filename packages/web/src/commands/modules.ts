/** Commands on modules as they are found and heard. */
import { cablesAmong, splitTarget } from '@ypsilon/core'
import type { App } from '../app/app.ts'
import { levelNow } from '../app/level.ts'
import type { Command } from './command.ts'

const BENCH = ['bench'] as const

/** Cables that leave what is selected. */
const leaving = (app: App): Set<string | undefined> => {
  const ids = new Set(app.workspace.getState().selection)
  return new Set(
    levelNow(app)
      .cables.filter(({ from }) => ids.has(splitTarget(from)?.[0] ?? ''))
      .map(({ id }) => id),
  )
}

/** Mutes all that leaves the selected modules, or lets it through again where all of it is muted. */
const mute = (app: App): void => {
  const ids = leaving(app),
    { change } = app.document.getState()
  const isMuted = levelNow(app).cables.every((cable) => !ids.has(cable.id) || cable.muted === true)
  change(isMuted ? 'Let modules through' : 'Mute modules', (draft) => {
    for (const cable of cablesAmong(draft)) {
      if (!ids.has(cable.id)) continue
      if (isMuted) delete cable.muted
      else cable.muted = true
    }
  })
}

export const MODULE_COMMANDS: readonly Command[] = [
  {
    id: 'find-in-patch',
    label: 'Find in the patch',
    group: 'Look',
    keys: ['Ctrl+F'],
    views: BENCH,
    places: ['chart'],
    can: (app) => app.document.getState().patch.modules.length > 0 || 'The bench is empty.',
    run: (app) => {
      app.workspace.getState().openDialog('find')
    },
  },
  {
    id: 'mute-module',
    label: 'Mute, or let through',
    group: 'Edit',
    keys: ['Ctrl+Alt+M'],
    views: BENCH,
    places: ['module'],
    can: (app) => leaving(app).size > 0 || 'Nothing leaves what is selected.',
    run: mute,
  },
]
