/** What the dock shows: the tab that was chosen, as far as there is something for it. */
import { patchIndex, type PatchModule } from '@ypsilon/core'
import { useDocument, useWorkspace } from '../app/context.ts'
import type { DockTab } from '../store/workspace.ts'
import { hasEditor } from './editors/registry.tsx'

export interface Docked {
  readonly tab: DockTab
  /** The selected module, where something of it is drawn. */
  readonly edited: PatchModule | undefined
}

export const useDocked = (): Docked => {
  const wanted = useWorkspace((state) => state.dockTab),
    // Of several none is drawn.
    id = useWorkspace(({ selection }) => (selection.length === 1 ? selection[0] : undefined))
  const edited = useDocument(({ patch }) => {
    const module = id === undefined ? undefined : patchIndex(patch).module.get(id)
    return hasEditor(module) ? module : undefined
  })
  // Without one the probe stands there, until a module with an editor is selected again.
  return { tab: wanted === 'editor' && !edited ? 'probe' : wanted, edited }
}
