import { Dialog } from 'radix-ui'
import type { ReactNode } from 'react'

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
