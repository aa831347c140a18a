/** What the dock shows: the tab that was chosen, as far as there is something for it. */
import { patchIndex, type PatchModule } from '@ypsilon/core'
import { useDocument, useProbe, useWorkspace } from '../app/context.ts'
import type { DockTab, Sized } from '../store/workspace.ts'
import { hasEditor } from './editors/registry.tsx'

export interface Docked {
  readonly tab: DockTab
  /** The selected module, where something of it is drawn. */
  readonly edited: PatchModule | undefined
  /** How high it is: what is drawn or compared in it needs more room than the rest, and has a height of its own. */
  readonly size: Extract<Sized, 'dock' | 'editor'>
}

export const useDocked = (): Docked => {
  const wanted = useWorkspace((state) => state.dockTab),
    // Of several none is drawn.
    isComparing = useProbe(({ compared }) => compared !== undefined),
    id = useWorkspace(({ selection }) => (selection.length === 1 ? selection[0] : undefined))
  const edited = useDocument(({ patch }) => {
    const module = id === undefined ? undefined : patchIndex(patch).module.get(id)
    return hasEditor(module) ? module : undefined
  })
  // Without one the probe stands there, until a module with an editor is selected again.
  const tab = wanted === 'editor' && !edited ? 'probe' : wanted
  return { tab, edited, size: tab === 'editor' || (tab === 'probe' && isComparing) ? 'editor' : 'dock' }
}
