/** What the context menu of a port or a row offers for the probe. */
import type { App } from '../../app/app.ts'
import type { MenuEntry } from '../../ui/menu.tsx'
import { pin, probedOf, rowTargetOf } from './target.ts'

/** An output, what moves a value, or what comes to an input is looked at. */
export const probeEntry = (app: App, port: string, side: 'input' | 'output'): MenuEntry[] => {
  const { patch } = app.document.getState()
  const target = side === 'output' ? port : rowTargetOf(patch, port)
  if (target === undefined || !probedOf(patch, target)) return []
  return [
    {
      id: 'probe',
      label: 'Look at it in the probe',
      aside: side === 'output' ? 'Shift+click' : '',
      onSelect: () => {
        pin(app, target)
      },
    },
  ]
}
