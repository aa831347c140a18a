import { descriptionOf } from '@ypsilon/core'
import { lazy, Suspense } from 'react'
import { useWorkspace } from '../app/context.ts'
import { type Tab, TabSet } from '../ui/tabs.tsx'
import type { DockTab } from '../store/workspace.ts'
import type { Docked } from './dock-tab.ts'
import { EditorOf } from './editors/registry.tsx'
import { loadKeys } from './later.ts'
import { Probe } from './probe.tsx'

const Keys = lazy(async () => ({ default: (await loadKeys()).Keys }))

const TABS: readonly Tab<DockTab>[] = [
  { name: 'probe', label: 'Probe', content: <Probe /> },
  {
    name: 'keys',
    label: 'Keys',
    content: (
      <Suspense>
        <Keys />
      </Suspense>
    ),
  },
]

/** Bottom: measuring, playing, and drawing what the selected module keeps. */
export const Dock = ({ tab, edited }: Docked) => {
  const showDock = useWorkspace((state) => state.showDock)
  const tabs: readonly Tab<DockTab>[] = edited
    ? [
        ...TABS,
        { name: 'editor', label: descriptionOf(edited)!.label, content: <EditorOf module={edited} /> },
      ]
    : TABS
  return (
    <section className="h-full border-t border-rule bg-card" aria-label="Dock">
      <TabSet label="Dock" tabs={tabs} value={tab} onChange={showDock} />
    </section>
  )
}
