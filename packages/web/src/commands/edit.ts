/** Commands on what is selected. */
import {
  cableIn,
  descriptionOf,
  duplicate,
  GRID,
  labelOf,
  modulesAmong,
  patchIndex,
  removeCables,
  removeModules,
  settle,
  splitTarget,
} from '@ypsilon/core'
import type { App } from '../app/app.ts'
import { levelNow } from '../app/level.ts'
import type { Command } from './command.ts'
import { chosenMark, moveChosenMark, removeChosenMark } from './marks.ts'

const BENCH = ['bench'] as const
const NOTHING = 'Nothing is selected.'
/** Deleting so many modules at once keeps a version first. */
const MANY = 8
const OFFSET = 36

const selected = (app: App): readonly string[] => app.workspace.getState().selection
const chosenCable = (app: App): string | undefined => app.workspace.getState().cable
const hasSelection = (app: App): true | string => selected(app).length > 0 || NOTHING
const hasCable = (app: App): true | string => chosenCable(app) !== undefined || 'No cable is selected.'

/** What a step on modules is called. */
const titled = (app: App, verb: string): string => {
  const ids = selected(app)
  return ids.length === 1
    ? `${verb} ${labelOf(app.document.getState().patch, ids[0]!)}`
    : `${verb} ${ids.length} modules`
}

/** Takes away the selected modules; a version is kept before many of them go. */
export const removeSelected = (app: App, verb: string, doing: string): void => {
  const ids = new Set(selected(app))
  if (ids.size >= MANY) void app.desk.keeping.keepVersion(`Before ${titled(app, doing)}`, true)
  const isGone = app.document.getState().change(titled(app, verb), (draft) => {
    removeModules(draft, ids)
  })
  if (isGone) app.workspace.getState().select([])
}

const deleteSelected = (app: App): void => {
  if (removeChosenMark(app)) return
  const { change } = app.document.getState()
  const cable = chosenCable(app)
  if (cable !== undefined) {
    change('Remove a cable', (draft) => {
      removeCables(draft, new Set([cable]))
    })
    app.workspace.getState().selectCable(undefined)
    return
  }
  removeSelected(app, 'Delete', 'deleting')
}

const duplicating =
  (withIncoming: boolean) =>
  (app: App): void => {
    let made: string[] = []
    const isMade = app.document.getState().change(titled(app, 'Duplicate'), (draft) => {
      made = duplicate(draft, selected(app), OFFSET, withIncoming, app.workspace.getState().group)
      settle(draft, made)
    })
    if (isMade) app.workspace.getState().select(made)
  }

const canBypass = (app: App, id: string): boolean => {
  const module = patchIndex(app.document.getState().patch).module.get(id)
  return Boolean(module && descriptionOf(module)?.bypass)
}

const bypass = (app: App): void => {
  const ids = new Set(selected(app).filter((id) => canBypass(app, id)))
  app.document.getState().change(titled(app, 'Bypass'), (draft) => {
    for (const module of modulesAmong(draft, ids)) module.bypass = !module.bypass
  })
}

/** Moves what is selected by steps of the grid; moves that follow at once are one step. */
const moving =
  (dx: number, dy: number) =>
  (app: App): void => {
    if (moveChosenMark(app, dx, dy)) return
    const ids = new Set(selected(app))
    app.document.getState().change(
      titled(app, 'Move'),
      (draft) => {
        for (const module of modulesAmong(draft, ids)) {
          module.x = (module.x ?? 0) + dx
          module.y = (module.y ?? 0) + dy
        }
      },
      `move-${[...ids].join()}-${Math.floor(app.clock.now() / 1000)}`,
    )
  }
const moveCommand = (id: string, label: string, key: string, dx: number, dy: number): Command => ({
  id,
  label,
  group: 'Edit',
  keys: [key],
  repeats: true,
  views: BENCH,
  can: (app) => chosenMark(app) !== undefined || hasSelection(app),
  run: moving(dx, dy),
})

const muteCable = (app: App): void => {
  const id = chosenCable(app)
  app.document.getState().change('Mute a cable', (draft) => {
    const cable = cableIn(draft, id)
    if (cable) cable.muted = !cable.muted
  })
}

const jumpTo =
  (end: 'from' | 'to') =>
  (app: App): void => {
    const cable = patchIndex(app.document.getState().patch).cable.get(chosenCable(app) ?? '')
    if (cable) app.workspace.getState().select([cable[end].split('.')[0]!])
  }

/** Goes from cable to cable: of the selected module, or of the one beside the selected cable, or of all. */
const nextCable =
  (by: 1 | -1) =>
  (app: App): void => {
    const { cables } = levelNow(app),
      { selection, cable, selectCable } = app.workspace.getState()
    const ids = new Set(selection)
    const around = cables.filter(
      ({ from, to }) => ids.size === 0 || [from, to].some((end) => ids.has(splitTarget(end)?.[0] ?? '')),
    )
    const at = around.findIndex(({ id }) => id === cable)
    const next = around[at < 0 ? (by > 0 ? 0 : around.length - 1) : (at + by + around.length) % around.length]
    if (next?.id !== undefined) selectCable(next.id)
  }
const hasCables = (app: App): true | string => levelNow(app).cables.length > 0 || 'There is no cable yet.'

export const EDIT_COMMANDS: readonly Command[] = [
  {
    id: 'undo',
    label: 'Undo',
    group: 'Edit',
    keys: ['Ctrl+Z'],
    repeats: true,
    views: BENCH,
    can: (app) => app.document.getState().history.past.length > 0 || 'There is nothing to undo.',
    run: (app) => {
      app.document.getState().undo()
    },
  },
  {
    id: 'redo',
    label: 'Redo',
    group: 'Edit',
    keys: ['Ctrl+Shift+Z', 'Ctrl+Y'],
    repeats: true,
    views: BENCH,
    can: (app) => app.document.getState().history.future.length > 0 || 'There is nothing to redo.',
    run: (app) => {
      app.document.getState().redo()
    },
  },
  {
    id: 'rename-module',
    label: 'Rename',
    group: 'Edit',
    keys: ['F2'],
    views: BENCH,
    places: ['module'],
    can: (app) =>
      chosenMark(app) !== undefined || selected(app).length === 1 || 'Select one module, frame or note.',
    run: (app) => {
      app.workspace.getState().rename(chosenMark(app) ?? selected(app)[0])
    },
  },
  {
    id: 'duplicate',
    label: 'Duplicate',
    group: 'Edit',
    keys: ['Ctrl+D'],
    views: BENCH,
    places: ['module'],
    can: hasSelection,
    run: duplicating(false),
  },
  {
    id: 'duplicate-wired',
    label: 'Duplicate with incoming cables',
    group: 'Edit',
    keys: ['Ctrl+Shift+D'],
    views: BENCH,
    places: ['module'],
    can: hasSelection,
    run: duplicating(true),
  },
  {
    id: 'bypass',
    label: 'Bypass',
    group: 'Edit',
    keys: ['Ctrl+B'],
    views: BENCH,
    places: ['module'],
    can: (app) => selected(app).some((id) => canBypass(app, id)) || 'Nothing selected can be bypassed.',
    run: bypass,
  },
  {
    id: 'delete',
    label: 'Delete',
    group: 'Edit',
    keys: ['Backspace', 'Delete'],
    views: BENCH,
    places: ['module', 'cable'],
    can: (app) => hasCable(app) === true || chosenMark(app) !== undefined || hasSelection(app),
    run: deleteSelected,
  },
  {
    id: 'mute-cable',
    label: 'Mute the cable, or let it through',
    group: 'Edit',
    views: BENCH,
    places: ['cable'],
    can: hasCable,
    run: muteCable,
  },
  {
    id: 'insert-in-cable',
    label: 'Put a module into the cable',
    group: 'Add and connect',
    keys: ['Ctrl+I'],
    views: BENCH,
    places: ['cable'],
    can: hasCable,
    run: (app) => {
      const cable = chosenCable(app)
      if (cable !== undefined) app.chart.openFinder(cable)
    },
  },
  {
    id: 'cable-source',
    label: 'Go to where the cable begins',
    group: 'Edit',
    views: BENCH,
    places: ['cable'],
    can: hasCable,
    run: jumpTo('from'),
  },
  {
    id: 'cable-target',
    label: 'Go to where the cable ends',
    group: 'Edit',
    views: BENCH,
    places: ['cable'],
    can: hasCable,
    run: jumpTo('to'),
  },
  {
    id: 'select-all',
    label: 'Select all',
    group: 'Edit',
    keys: ['Ctrl+A'],
    views: BENCH,
    places: ['chart'],
    can: (app) => levelNow(app).modules.length > 0 || 'There is nothing here.',
    run: (app) => {
      app.workspace.getState().select(levelNow(app).modules.map(({ id }) => id))
    },
  },
  {
    id: 'next-cable',
    label: 'Select the next cable',
    group: 'Edit',
    keys: ['Ctrl+ArrowRight'],
    repeats: true,
    views: BENCH,
    can: hasCables,
    run: nextCable(1),
  },
  {
    id: 'previous-cable',
    label: 'Select the cable before',
    group: 'Edit',
    keys: ['Ctrl+ArrowLeft'],
    repeats: true,
    views: BENCH,
    can: hasCables,
    run: nextCable(-1),
  },
  moveCommand('move-left', 'Move left', 'ArrowLeft', -GRID, 0),
  moveCommand('move-right', 'Move right', 'ArrowRight', GRID, 0),
  moveCommand('move-up', 'Move up', 'ArrowUp', 0, -GRID),
  moveCommand('move-down', 'Move down', 'ArrowDown', 0, GRID),
]
