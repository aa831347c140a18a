import { useWorkspace } from '../app/context.ts'
import { type Tab, TabSet } from '../ui/tabs.tsx'
import type { DockTab } from '../store/workspace.ts'
import { Keys } from './keys.tsx'
import { Probe } from './probe.tsx'

const TABS: readonly Tab<DockTab>[] = [
  { name: 'probe', label: 'Probe', content: <Probe /> },
  { name: 'keys', label: 'Keys', content: <Keys /> },
]

/** Bottom: measuring and playing. */
export const Dock = () => {
  const tab = useWorkspace((state) => state.dockTab),
    showDock = useWorkspace((state) => state.showDock)
  return (
    <section className="h-full border-t border-rule bg-card" aria-label="Dock">
      <TabSet label="Dock" tabs={TABS} value={tab} onChange={showDock} />
    </section>
  )
}
