import { keyWords } from '../commands/command.ts'
import { canRun } from '../commands/registry.ts'
import type { MenuEntry } from '../ui/menu.tsx'
import type { App } from './app.ts'

/** A command as a line of a menu. */
export const commandEntry = (app: App, id: string): MenuEntry => {
  const command = app.commands.get(id),
    [key] = command.keys ?? []
  return {
    id,
    label: command.label,
    aside: key === undefined ? undefined : keyWords(key),
    why: canRun(command, app) === true ? undefined : '',
    onSelect: () => {
      command.run(app)
    },
  }
}
