import { ContextMenu, DropdownMenu } from 'radix-ui'
import { overlays } from './overlays.ts'
import type { ReactElement, ReactNode } from 'react'

/** One line of a menu. */
export interface MenuEntry {
  readonly id: string
  readonly label: ReactNode
  /** What stands at the right: a key, a kind. */
  readonly aside?: ReactNode
  /** Why it cannot be chosen now. */
  readonly why?: string | undefined
  readonly onSelect: () => void
}

/** Entries under a heading. */
export interface MenuPart {
  readonly heading?: string
  readonly entries: readonly MenuEntry[]
}

interface ContentProps {
  readonly parts: readonly MenuPart[]
  readonly kit: typeof DropdownMenu | typeof ContextMenu
}

const Lines = ({ parts, kit }: ContentProps) => {
  const { Item, Label, Separator, Group } = kit
  return parts
    .filter(({ entries }) => entries.length > 0)
    .map(({ heading, entries }, index) => (
      <Group key={heading ?? index}>
        {index > 0 && <Separator className="my-1 h-px bg-rule" />}
        {heading !== undefined && <Label className="px-2 py-1 text-11 text-ink2">{heading}</Label>}
        {entries.map(({ id, label, aside, why, onSelect }) => (
          <Item key={id} disabled={why !== undefined} onSelect={onSelect}>
            <span className="min-w-0 truncate">{label}</span>
            <span className="shrink-0 text-ink2">{why ?? aside}</span>
          </Item>
        ))}
      </Group>
    ))
}

interface MenuProps {
  readonly trigger: ReactElement
  readonly parts: readonly MenuPart[]
  readonly align?: 'start' | 'end'
  readonly onClosed?: (event: Event) => void
}

/** A menu at a button. */
export const Menu = ({ trigger, parts, align = 'start', onClosed }: MenuProps) => (
  <DropdownMenu.Root modal={false}>
    <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
    <DropdownMenu.Portal container={overlays()}>
      <DropdownMenu.Content
        className="menu"
        align={align}
        sideOffset={6}
        collisionPadding={8}
        {...(onClosed ? { onCloseAutoFocus: onClosed } : {})}
      >
        <Lines parts={parts} kit={DropdownMenu} />
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  </DropdownMenu.Root>
)

interface ContextMenuAtProps {
  readonly children: ReactElement
  readonly parts: readonly MenuPart[]
  readonly onOpenChange?: (isOpen: boolean) => void
}

/** The menu of a thing, by the second button or the menu key. */
export const MenuAt = ({ children, parts, onOpenChange }: ContextMenuAtProps) => (
  <ContextMenu.Root modal={false} {...(onOpenChange ? { onOpenChange } : {})}>
    <ContextMenu.Trigger asChild>{children}</ContextMenu.Trigger>
    <ContextMenu.Portal container={overlays()}>
      <ContextMenu.Content className="menu" collisionPadding={8}>
        <Lines parts={parts} kit={ContextMenu} />
      </ContextMenu.Content>
    </ContextMenu.Portal>
  </ContextMenu.Root>
)
