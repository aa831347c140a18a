import { Dialog } from 'radix-ui'
import { useState } from 'react'
import { SHORTCUTS } from './bench/shortcuts.ts'
import { useSession } from './store/session.ts'

export const ShortcutSheet = () => {
  const open = useSession((state) => state.shortcuts)
  const [text, setText] = useState('')
  const shown = SHORTCUTS.filter(([keys, what]) =>
    `${keys} ${what}`.toLowerCase().includes(text.toLowerCase()),
  )
  return (
    <Dialog.Root
      open={open}
      onOpenChange={(next) => {
        useSession.getState().set({ shortcuts: next })
      }}
    >
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/25" />
        <Dialog.Content
          className="menu fixed left-1/2 top-1/2 w-[440px] -translate-x-1/2 -translate-y-1/2 !p-4"
          aria-describedby={undefined}
          onKeyDown={(event) => {
            event.stopPropagation()
          }}
        >
          <Dialog.Title className="mb-2 text-[15px] font-semibold">Shortcuts</Dialog.Title>
          <input
            className="mb-2 h-8 w-full rounded-[3px] border border-rule bg-transparent px-2"
            placeholder="Search"
            aria-label="Search shortcuts"
            value={text}
            onChange={(event) => {
              setText(event.target.value)
            }}
          />
          <dl className="m-0 grid max-h-[420px] grid-cols-[120px_1fr] gap-y-1 overflow-auto">
            {shown.flatMap(([keys, what]) => [
              <dt key={`${keys}k`} className="mono">
                {keys}
              </dt>,
              <dd key={keys} className="m-0">
                {what}
              </dd>,
            ])}
          </dl>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
