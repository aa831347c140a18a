import { Dialog } from 'radix-ui'
import { type ReactNode, useState } from 'react'
import { Button } from './button.tsx'

interface WindowProps {
  readonly title: string
  readonly isOpen: boolean
  readonly onClose: () => void
  readonly isWide?: boolean
  readonly children: ReactNode
  /** Where the focus goes when it closes; left out: back to where it was. */
  readonly onClosed?: (event: Event) => void
}

/** A dialog over the page: Escape and a click beside it close it. */
export const Window = ({ title, isOpen, onClose, isWide = false, children, onClosed }: WindowProps) => (
  <Dialog.Root
    open={isOpen}
    onOpenChange={(open) => {
      if (!open) onClose()
    }}
  >
    <Dialog.Portal>
      <Dialog.Overlay className="fixed inset-0 z-40 bg-black/25" />
      <Dialog.Content
        className={`window ${isWide ? 'w-[640px]' : 'w-[440px]'}`}
        aria-describedby={undefined}
        {...(onClosed ? { onCloseAutoFocus: onClosed } : {})}
      >
        <Dialog.Title className="mb-3 text-15 font-semibold">{title}</Dialog.Title>
        {children}
      </Dialog.Content>
    </Dialog.Portal>
  </Dialog.Root>
)

/** Buttons at the end of a dialog. */
export const WindowButtons = ({ children }: { readonly children: ReactNode }) => (
  <div className="mt-4 flex justify-end gap-2">{children}</div>
)

interface NameFormProps {
  /** What the line is for, to those who do not see it. */
  readonly label: string
  /** What stands there first, marked to be typed over. */
  readonly first: string
  /** Words of the button that takes it. */
  readonly words: string
  readonly onTake: (name: string) => void
  readonly onCancel: () => void
}

/** A line for a name in a dialog: Enter takes it, nothing at all is none. */
export const NameForm = ({ label, first, words, onTake, onCancel }: NameFormProps) => {
  const [text, setText] = useState(first)
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        onTake(text.trim())
      }}
    >
      <input
        className="search-field w-full"
        aria-label={label}
        autoFocus
        value={text}
        onFocus={(event) => {
          event.target.select()
        }}
        onChange={(event) => {
          setText(event.target.value)
        }}
      />
      <WindowButtons>
        <Button onClick={onCancel}>Cancel</Button>
        <Button look="main" type="submit" disabled={!text.trim()}>
          {words}
        </Button>
      </WindowButtons>
    </form>
  )
}
