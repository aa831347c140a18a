/** A line of the drawer of parts: dragged onto the chart, or added by a double-click or Enter. */
import type { ReactNode } from 'react'

interface PartRowProps {
  /** What is dragged: its kind for the chart, and which it is. */
  readonly drag: readonly [kind: string, id: string]
  readonly mark: ReactNode
  readonly name: string
  readonly about: string | undefined
  readonly onAdd: () => void
  /** What stands at its end. */
  readonly children?: ReactNode
}

export const PartRow = ({ drag, mark, name, about, onAdd, children }: PartRowProps) => (
  <div
    role="button"
    tabIndex={0}
    draggable
    className="group flex cursor-grab items-start gap-2.5 px-3 py-1 hover:bg-wash"
    onDragStart={(event) => {
      event.dataTransfer.setData(...drag)
      event.dataTransfer.effectAllowed = 'copy'
    }}
    onDoubleClick={onAdd}
    onKeyDown={(event) => {
      if (event.key !== 'Enter' || event.target !== event.currentTarget) return
      event.preventDefault()
      onAdd()
    }}
  >
    <span className="mt-0.5 shrink-0">{mark}</span>
    <span className="min-w-0 flex-1">
      <span className="block truncate leading-4">{name}</span>
      <span className="block truncate text-11 leading-4 text-ink2">{about}</span>
    </span>
    {children}
  </div>
)
