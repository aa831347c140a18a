/** Keeps what the drawer at the left shows open beside the chart, or lets it close again. */
import { Pin } from 'lucide-react'
import { useApp, useWorkspace } from '../app/context.ts'
import { IconButton } from '../ui/button.tsx'

export const DrawerPin = ({ what }: { readonly what: string }) => {
  const { workspace } = useApp()
  const isPinned = useWorkspace((state) => state.panels.parts)
  return (
    <IconButton
      label={isPinned ? `Let the ${what} close` : `Keep the ${what} open`}
      aria-pressed={isPinned}
      onClick={() => {
        workspace.getState().togglePanel('parts')
      }}
    >
      <Pin size={14} fill={isPinned ? 'currentColor' : 'none'} />
    </IconButton>
  )
}
