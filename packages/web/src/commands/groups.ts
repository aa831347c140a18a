/** Commands on groups: made of what is selected, opened, left, taken apart. What they do is fetched when it is first asked for. */
import { isPort, patchIndex } from '@ypsilon/core'
import type { App } from '../app/app.ts'
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

/** Does something with the parts that are fetched for it; a page that cannot fetch them says so. */
const doing =
  (act: (parts: typeof import('../app/grouping.ts'), app: App) => void) =>
  (app: App): void => {
    import('../app/grouping.ts').then(
      (parts) => {
        act(parts, app)
      },
      () => {
        app.notifier.error('This part of the page could not be fetched. Reload the page and try again.')
      },
    )
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
    run: doing((parts, app) => {
      parts.groupSelected(app)
    }),
  },
  {
    id: 'ungroup',
    label: 'Take the group apart',
    group: 'Edit',
    keys: ['Ctrl+Shift+G'],
    views: BENCH,
    places: ['module'],
    can: isGroup,
    run: doing((parts, app) => {
      parts.dissolveSelected(app)
    }),
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
