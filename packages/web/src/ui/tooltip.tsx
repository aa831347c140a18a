import { Tooltip } from 'radix-ui'
import { overlays } from './overlays.ts'
import type { ReactElement, ReactNode } from 'react'

interface TipProps {
  /** What the thing is, in words; left out: no tooltip. */
  readonly words: ReactNode
  /** Its key, shown beside the words. */
  readonly keys?: string | undefined
  readonly side?: 'top' | 'bottom' | 'left' | 'right'
  readonly children: ReactElement
}

/** Names a thing, with its key, while the pointer rests on it or it has the focus. */
export const Tip = ({ words, keys, side = 'bottom', children }: TipProps) => (
  <Tooltip.Root>
    <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
    <Tooltip.Portal container={overlays()}>
      <Tooltip.Content className="tip" side={side} sideOffset={4} collisionPadding={8}>
        {words}
        {keys !== undefined && <kbd className="mono ml-2 text-ink2">{keys}</kbd>}
      </Tooltip.Content>
    </Tooltip.Portal>
  </Tooltip.Root>
)

export const TipProvider = ({ children }: { readonly children: ReactNode }) => (
  <Tooltip.Provider delayDuration={500} skipDelayDuration={200}>
    {children}
  </Tooltip.Provider>
)
