/** Where the chart is while a group is open: the way there, each step of it a button that goes back. */
import { groupsAround, labelOf } from '@ypsilon/core'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import { Tip } from '../ui/tooltip.tsx'

export const Breadcrumb = () => {
  const { workspace, chart } = useApp()
  const patch = useDocument((state) => state.patch),
    group = useWorkspace((state) => state.group)
  if (group === undefined) return null
  const around = groupsAround(patch, group)
  const go = (to: string | undefined, left: string): void => {
    const { openGroup, select } = workspace.getState()
    openGroup(to)
    select([left])
    chart.focus()
  }
  return (
    <nav className="breadcrumb" aria-label="Open group">
      <Tip words="Back to the bench" keys={around.length === 0 ? 'Ctrl+ArrowUp' : undefined}>
        <button
          type="button"
          className="btn-quiet"
          onClick={() => {
            go(undefined, around[0] ?? group)
          }}
        >
          {patch.name}
        </button>
      </Tip>
      {around.map((outer, n) => (
        <span key={outer} className="flex items-center gap-1">
          <span aria-hidden="true">›</span>
          <button
            type="button"
            className="btn-quiet"
            onClick={() => {
              go(outer, around[n + 1] ?? group)
            }}
          >
            {labelOf(patch, outer)}
          </button>
        </span>
      ))}
      <span aria-hidden="true">›</span>
      <span className="px-1 font-semibold" aria-current="page">
        {labelOf(patch, group)}
      </span>
    </nav>
  )
}
