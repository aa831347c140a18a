import { descriptionOf } from '@ypsilon/core'
import { lazy, Suspense } from 'react'
import { useWorkspace } from '../app/context.ts'
import { type Tab, TabSet } from '../ui/tabs.tsx'
import type { DockTab } from '../store/workspace.ts'
import type { Docked } from './dock-tab.ts'
import { EditorOf } from './editors/registry.tsx'
import { loadKeys, loadProbe } from './later.ts'

const Keys = lazy(async () => ({ default: (await loadKeys()).Keys })),
  Probe = lazy(async () => ({ default: (await loadProbe()).Probe }))

const TABS: readonly Tab<DockTab>[] = [
  {
    name: 'probe',
    label: 'Probe',
    content: (
      <Suspense>
        <Probe />
      </Suspense>
    ),
  },
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
