import { Popover } from 'radix-ui'
import { overlays } from './overlays.ts'
import { type ReactElement, type ReactNode, useRef } from 'react'

interface SheetProps {
  readonly trigger: ReactElement
  readonly label: string
  readonly children: ReactNode
  readonly align?: 'start' | 'end'
  readonly onClosed?: (event: Event) => void
}

/** A small sheet at a button. */
export const Sheet = ({ trigger, label, children, align = 'end', onClosed }: SheetProps) => {
  const isLeft = useRef(false)
  return (
    <Popover.Root>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <Popover.Portal container={overlays()}>
        <Popover.Content
          className="menu w-80 p-3"
          align={align}
          sideOffset={6}
          collisionPadding={8}
          aria-label={label}
          onOpenAutoFocus={() => {
            isLeft.current = false
          }}
          onInteractOutside={() => {
            isLeft.current = true
          }}
          onCloseAutoFocus={(event) => {
            // Whoever was pressed instead has the focus: it is not taken from a menu that opens there.
            if (isLeft.current) event.preventDefault()
            else onClosed?.(event)
          }}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
