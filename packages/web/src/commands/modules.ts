/** Commands on modules as they are found and heard. */
import {
  cablesAmong,
  type Heard,
  heardAfter,
  heardBefore,
  isPort,
  labelOf,
  patchIndex,
  splitTarget,
} from '@ypsilon/core'
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

/** The one selected module, where another may take its place. */
const replaceable = (app: App): string | undefined => {
  const { selection } = app.workspace.getState()
  const module =
    selection.length === 1 ? patchIndex(app.document.getState().patch).module.get(selection[0]!) : undefined
  return module && !module.inside && !isPort(module) ? module.id : undefined
}

/** What is heard at one side of the selected module. */
const heardAt = (app: App, side: 'before' | 'after'): readonly Heard[] => {
  const { selection } = app.workspace.getState(),
    { patch } = app.document.getState()
  if (selection.length !== 1) return []
  return (side === 'before' ? heardBefore : heardAfter)(patch, selection[0]!)
}

const listenCommand = (side: 'before' | 'after', label: string, key: string): Command => ({
  id: `listen-${side}`,
  label,
  group: 'Play',
  keys: [key],
  views: BENCH,
  places: ['module'],
  can: (app) =>
    app.workspace.getState().listening !== undefined ||
    heardAt(app, side).length > 0 ||
    (side === 'before' ? 'No sound comes into what is selected.' : 'Select one module with an output.'),
  run: (app) => {
    const { listening, listen, selection } = app.workspace.getState(),
      words = `what ${side === 'before' ? 'comes into' : 'leaves'} ${labelOf(app.document.getState().patch, selection[0] ?? '')}`
    void app.engine.start()
    // The same again: everything is heard.
    listen(
      listening?.words === words || selection.length !== 1 ? undefined : { heard: heardAt(app, side), words },
    )
  },
})

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
    id: 'replace',
    label: 'Replace by another part',
    group: 'Edit',
    keys: ['Ctrl+Alt+R'],
    views: BENCH,
    places: ['module'],
    can: (app) => replaceable(app) !== undefined || 'Select one module that is no group.',
    run: (app) => {
      const id = replaceable(app)
      if (id !== undefined) app.chart.replace(id)
    },
  },
  {
    id: 'copy-settings',
    label: 'Copy the settings',
    group: 'Edit',
    keys: ['Ctrl+Alt+C'],
    views: BENCH,
    places: ['module'],
    can: (app) => app.workspace.getState().selection.length === 1 || 'Select one module.',
    run: (app) => {
      void import('../app/values.ts').then(({ copySettings }) => {
        copySettings(app, app.workspace.getState().selection[0]!)
      })
    },
  },
  {
    id: 'paste-settings',
    label: 'Paste the settings',
    group: 'Edit',
    keys: ['Ctrl+Alt+V'],
    views: BENCH,
    places: ['module'],
    can: (app) =>
      app.workspace.getState().settings === undefined
        ? 'Copy the settings of a module first.'
        : app.workspace.getState().selection.length > 0 || 'Nothing is selected.',
    run: (app) => {
      void import('../app/values.ts').then(({ pasteSettings }) => {
        pasteSettings(app, app.workspace.getState().selection)
      })
    },
  },
  {
    id: 'card-loads',
    label: 'Show what every card costs, or not',
    group: 'Look',
    keys: ['Ctrl+Alt+K'],
    views: BENCH,
    places: ['chart'],
    run: (app) => {
      app.workspace.getState().showLoads(!app.workspace.getState().hasLoads)
    },
  },
  listenCommand('before', 'Hear what comes into the module, or everything', 'Ctrl+Alt+ArrowLeft'),
  listenCommand('after', 'Hear what leaves the module, or everything', 'Ctrl+Alt+ArrowRight'),
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
