/** A line of a slot's sheet, and what all of its parts are given. */
import type { ReactNode } from 'react'
import type { ProbeSlot, SlotName } from '../../store/probe.ts'
import type { ProbeFeed } from './feed.ts'

export interface SlotParts {
  readonly name: SlotName
  readonly slot: ProbeSlot
  readonly feed: ProbeFeed
}

interface RowProps {
  readonly label: string
  readonly children: ReactNode
}
export const Row = ({ label, children }: RowProps) => (
  <div className="flex min-h-7 items-center justify-between gap-3">
    <span className="text-ink2">{label}</span>
    <span className="flex min-w-0 items-center gap-1.5">{children}</span>
  </div>
)
