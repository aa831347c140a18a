/** Commands on groups: made of what is selected, opened, left, taken apart. What they do is fetched when it is first asked for. */
import { isPort, patchIndex, type PatchModule } from '@ypsilon/core'
import type { App } from '../app/app.ts'
import type { Dialog } from '../store/workspace.ts'
import type { Command } from './command.ts'

const BENCH = ['bench'] as const

const chosen = (app: App): string | undefined => {
  const { selection } = app.workspace.getState()
  return selection.length === 1 ? selection[0] : undefined
}
const moduleNow = (app: App, id: string | undefined) =>
  id === undefined ? undefined : patchIndex(app.document.getState().patch).module.get(id)

const isGroup = (app: App): true | string =>
  moduleNow(app, chosen(app))?.type === 'group' || 'Select one group.'

/** The selected group, or the one that is open while nothing is selected. */
const groupHere = (app: App): PatchModule | undefined => {
  const { selection, group } = app.workspace.getState()
  const module = moduleNow(app, selection.length === 0 ? group : chosen(app))
  return module?.type === 'group' ? module : undefined
}
const isGroupHere = (app: App): true | string => groupHere(app) !== undefined || 'Select one group.'

const hasCopies = (app: App): true | string => {
  const own = groupHere(app)?.['own']
  if (own === undefined) return 'Only groups that are kept as a module of your own have copies.'
  const { modules } = patchIndex(app.document.getState().patch)
  return (
    modules.filter(({ module }) => module['own'] === own).length > 1 ||
    'There is no other copy in this patch.'
  )
}

const opening =
  (dialog: Dialog) =>
  (app: App): void => {
    app.workspace.getState().openDialog(dialog)
  }

/** Does something with parts that are fetched for it; a page that cannot fetch them says so. */
const doing = <Parts>(app: App, fetched: () => Promise<Parts>, act: (parts: Parts) => void): void => {
  fetched().then(act, () => {
    app.notifier.error('This part of the page could not be fetched. Reload the page and try again.')
  })
}

export const GROUP_COMMANDS: readonly Command[] = [
  {
    id: 'group',
    label: 'Group',
    group: 'Edit',
    keys: ['Ctrl+G'],
    views: BENCH,
    places: ['module'],
    can: (app) =>
      app.workspace.getState().selection.some((id) => {
        const module = moduleNow(app, id)
        return module !== undefined && !isPort(module)
      }) || 'Select what belongs together.',
    run: (app) => {
      doing(
        app,
        () => import('../app/grouping.ts'),
        (parts) => {
          parts.groupSelected(app)
        },
      )
    },
  },
  {
    id: 'ungroup',
    label: 'Take the group apart',
    group: 'Edit',
    keys: ['Ctrl+Shift+G'],
    views: BENCH,
    places: ['module'],
    can: isGroup,
    run: (app) => {
      doing(
        app,
        () => import('../app/grouping.ts'),
        (parts) => {
          parts.dissolveSelected(app)
        },
      )
    },
  },
  {
    id: 'open-group',
    label: 'Open the group',
    group: 'Look',
    keys: ['Ctrl+ArrowDown'],
    views: BENCH,
    places: ['module'],
    can: isGroup,
    run: (app) => {
      app.workspace.getState().openGroup(chosen(app))
    },
  },
  {
    id: 'keep-module',
    label: 'Keep as a module of your own',
    group: 'Edit',
    views: BENCH,
    places: ['module'],
    can: isGroupHere,
    run: opening('keep-module'),
  },
  {
    id: 'replace-copies',
    label: 'Make all copies like this one',
    group: 'Edit',
    views: BENCH,
    can: hasCopies,
    run: (app) => {
      const id = chosen(app) ?? app.workspace.getState().group
      if (id !== undefined)
        doing(
          app,
          () => import('../app/own-parts.ts'),
          (parts) => {
            parts.replaceCopies(app, id)
          },
        )
    },
  },
  {
    id: 'keep-section',
    label: 'Keep as a section',
    group: 'Edit',
    views: BENCH,
    places: ['module'],
    can: (app) => app.workspace.getState().selection.length > 0 || 'Nothing is selected.',
    run: opening('keep-section'),
  },
  {
    id: 'keep-preset',
    label: 'Keep these settings',
    group: 'Edit',
    views: BENCH,
    places: ['module'],
    can: (app) => chosen(app) !== undefined || 'Select one module.',
    run: opening('keep-preset'),
  },
  {
    id: 'leave-group',
    label: 'Leave the group',
    group: 'Look',
    keys: ['Ctrl+ArrowUp'],
    views: BENCH,
    places: ['chart'],
    can: (app) => app.workspace.getState().group !== undefined || 'No group is open.',
    run: (app) => {
      const { group, openGroup, select } = app.workspace.getState()
      if (group === undefined) return
      openGroup(patchIndex(app.document.getState().patch).parent.get(group)?.id)
      select([group])
    },
  },
]
