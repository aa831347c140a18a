/** Ports by keyboard: connect, disconnect, go along the cables. */
import { removeCables } from '@ypsilon/core'
import { type KeyboardEvent, useCallback } from 'react'
import { useApp } from '../app/context.ts'
import { cablesFrom, cablesTo } from './cable-index.ts'

/** Keys of a focused port: Enter connects it by typing, with Shift all its cables go elsewhere, Backspace takes its cables away. */
export const usePortKeys = (port: string, side: 'input' | 'output') => {
  const { document, workspace } = useApp()
  return useCallback(
    (event: KeyboardEvent) => {
      if (event.key === 'Enter') {
        const end = side === 'output' ? { from: port } : { to: port }
        workspace.getState().connectFrom(event.shiftKey ? { ...end, together: 'move' } : end)
      } else if (event.key === 'Backspace' || event.key === 'Delete') {
        const { patch, change } = document.getState()
        const cables = side === 'output' ? cablesFrom(patch, port) : cablesTo(patch, port)
        if (cables.length > 0)
          change(`Disconnect ${port}`, (draft) => {
            removeCables(draft, new Set(cables.map((cable) => cable.id ?? '')))
          })
      } else return
      event.preventDefault()
      event.stopPropagation()
    },
    [document, workspace, port, side],
  )
}
