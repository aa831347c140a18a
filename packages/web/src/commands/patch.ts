/** Commands on the patch as a document. */
import type { App } from '../app/app.ts'
import { exportPatch } from '../files/export.ts'
import type { Command } from './command.ts'

const canEdit = (app: App): true | string =>
  !app.document.getState().isReading || 'It is open in another tab.'

/** Puts the patch aside and brings what was worked on before it. */
const putAside = async (app: App): Promise<void> => {
  const { id, patch } = app.document.getState()
  if (!(await app.desk.putAside())) {
    app.notifier.error(`${patch.name} could not be put aside: the browser does not keep it.`)
    return
  }
  await app.desk.openNew()
  app.notifier.message(`${patch.name} is put aside for 30 days.`, {
    ...(id === undefined
      ? {}
      : {
          action: {
            label: 'Take it back',
            onClick: () => {
              void app.desk.takeBack(id)
            },
          },
        }),
    duration: 12000,
  })
}

/** Patches to begin from, by their names. */
const TEMPLATES = ['Instrument', 'Drum hit', 'Drone', 'Sequence', 'Effect'] as const
const idOf = (name: string): string => `new-${name.toLowerCase().replace(' ', '-')}`

export const PATCH_COMMANDS: readonly Command[] = [
  {
    id: 'new-patch',
    label: 'New patch',
    group: 'Patch',
    run: (app) => {
      void app.desk.openNew()
    },
  },
  ...TEMPLATES.map((name): Command => ({
    id: idOf(name),
    label: `New ${name.toLowerCase()}`,
    group: 'Patch',
    run: (app) => {
      void app.desk.openTemplate(name)
    },
  })),
  {
    id: 'rename-patch',
    label: 'Rename …',
    group: 'Patch',
    can: canEdit,
    run: (app) => {
      app.workspace.getState().openDialog('rename')
    },
  },
  {
    id: 'duplicate-patch',
    label: 'Duplicate the patch',
    group: 'Patch',
    run: (app) => {
      void app.desk.duplicate()
    },
  },
  {
    id: 'versions',
    label: 'Versions …',
    group: 'Patch',
    run: (app) => {
      app.workspace.getState().openDialog('versions')
    },
  },
  {
    id: 'put-aside',
    label: 'Put the patch aside',
    group: 'Patch',
    can: canEdit,
    run: (app) => {
      void putAside(app)
    },
  },
  {
    id: 'open-file',
    label: 'Open a file …',
    group: 'Patch',
    run: (app) => {
      app.chooseFiles()
    },
  },
  {
    id: 'export',
    label: 'Export as a file',
    group: 'Patch',
    run: (app) => {
      void exportPatch(app, app.document.getState().patch)
    },
  },
  {
    id: 'work-here',
    label: 'Work here',
    group: 'Patch',
    can: (app) => app.document.getState().isReading || 'Nothing else works on this patch.',
    run: (app) => {
      void app.desk.workHere()
    },
  },
]

/** What begins something new, in the order of the patch menu. */
export const NEW_MENU: readonly string[] = ['new-patch', ...TEMPLATES.map(idOf)]

/** What is done with the patch on the bench, in the same. */
export const PATCH_MENU: readonly string[] = [
  'rename-patch',
  'duplicate-patch',
  'versions',
  'put-aside',
  'open-file',
  'export',
]
