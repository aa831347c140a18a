import type { ReactNode } from 'react'
import { keyWords } from '../commands/command.ts'
import { canRun } from '../commands/registry.ts'
import { Button, IconButton } from '../ui/button.tsx'
import { useApp } from './context.ts'

interface CommandButtonProps {
  /** Id of the command. */
  readonly command: string
  /** Words in place of the command's own. */
  readonly words?: string
  readonly look?: 'plain' | 'main' | 'small'
  /** Of what is on or off: whether it is on. */
  readonly isPressed?: boolean
}

const runs = (app: ReturnType<typeof useApp>, id: string) => () => {
  const command = app.commands.get(id),
    can = canRun(command, app)
  if (can === true) command.run(app)
  else app.notifier.message(can)
}

/** A command as a button with words. */
export const CommandButton = ({ command: id, words, look = 'plain', isPressed }: CommandButtonProps) => {
  const app = useApp(),
    command = app.commands.get(id)
  return (
    <Button look={look} aria-pressed={isPressed} onClick={runs(app, id)}>
      {words ?? command.label}
    </Button>
  )
}

interface CommandMarkProps {
  readonly command: string
  /** Its name where that differs from the command's. */
  readonly label?: string
  readonly tip?: string
  readonly children: ReactNode
  readonly isPressed?: boolean
  readonly isDisabled?: boolean
}

/** A command as a mark; its tooltip names it and its key. */
export const CommandMark = ({
  command: id,
  label,
  tip,
  children,
  isPressed,
  isDisabled = false,
}: CommandMarkProps) => {
  const app = useApp(),
    command = app.commands.get(id),
    [key] = command.keys ?? []
  return (
    <IconButton
      label={label ?? command.label}
      {...(tip === undefined ? {} : { tip })}
      keys={key === undefined ? undefined : keyWords(key)}
      aria-pressed={isPressed}
      disabled={isDisabled}
      onClick={runs(app, id)}
    >
      {children}
    </IconButton>
  )
}
