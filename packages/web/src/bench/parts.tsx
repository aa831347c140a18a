import {
  CATALOGUE,
  FAMILIES,
  type Family,
  findParts,
  type Found,
  type ModuleDescription,
  PUBLIC_MODULES,
} from '@ypsilon/core'
import { lazy, memo, type ReactElement, Suspense, useState } from 'react'
import { Bookmark, List, ListTree, Search as SearchIcon } from 'lucide-react'
import { useApp, useWorkspace } from '../app/context.ts'
import type { Drawer as DrawerName } from '../store/workspace.ts'
import { IconButton } from '../ui/button.tsx'
import { useOutside } from '../ui/outside.ts'
import { Empty } from '../ui/panel.tsx'
import { ModuleMark } from '../ui/icons.tsx'
import { SearchField } from '../ui/text-field.tsx'
import { PART } from './chart.tsx'
import { DrawerPin } from './drawer-pin.tsx'
import { addAndWire } from './edits.ts'
import { PartRow } from './part-row.tsx'

/** Loaded with the first look at the parts. */
const Outline = lazy(async () => ({ default: (await import('./outline.tsx')).Outline }))
const KeptParts = lazy(async () => ({ default: (await import('./kept-parts.tsx')).KeptParts }))

const Part = memo(({ module }: { readonly module: ModuleDescription }) => {
  const app = useApp()
  return (
    <PartRow
      drag={[PART, module.type]}
      mark={<ModuleMark module={module} />}
      name={module.label}
      about={module.help.does}
      onAdd={() => {
        addAndWire(app, module.type, app.chart.centre())
      }}
    />
  )
})

/** What was looked for and is not built yet. */
const ComingPart = ({ found }: { readonly found: Extract<Found, { kind: 'coming' }> }) => (
  <p className="m-0 px-3 py-1 text-ink2">
    {found.coming.label} is not built yet. Until then:{' '}
    {found.coming.instead.map((type) => CATALOGUE.get(type)!.description.label).join(', ')}.
  </p>
)

interface FamilyProps {
  readonly family: Family
  readonly label: string
}

const FamilyPart = ({ family, label }: FamilyProps) => {
  const parts = PUBLIC_MODULES.filter((module) => module.family === family)
  return (
    <section>
      <h3 className="panel-title m-0 flex justify-between px-3 py-1.5">
        {label}
        <span className="mono font-normal text-ink2">{parts.length}</span>
      </h3>
      {parts.map((module) => (
        <Part key={module.type} module={module} />
      ))}
    </section>
  )
}

/** Families that have parts. */
const SHOWN = FAMILIES.filter(({ name }) => PUBLIC_MODULES.some(({ family }) => family === name))

interface SearchProps {
  readonly text: string
  readonly found: readonly Found[]
  readonly setText: (text: string) => void
}

const Search = ({ text, found, setText }: SearchProps) => {
  const app = useApp()
  return (
    <SearchField
      label="Find a part"
      placeholder="Find a part"
      className="min-w-0 flex-1"
      value={text}
      onChange={setText}
      onKeyDown={(event) => {
        if (event.key === 'Enter' && found[0]?.kind === 'part')
          addAndWire(app, found[0].part.type, app.chart.centre())
        if (event.key !== 'Escape') return
        event.preventDefault()
        app.workspace.getState().openDrawer(undefined)
        app.chart.focus()
      }}
    />
  )
}

/** Parts of one family or all, with search. Drag, double-click or Enter adds. */
export const Parts = ({ family }: { readonly family: DrawerName }) => {
  const [text, setText] = useState('')
  const found = findParts(PUBLIC_MODULES, text)
  return (
    <nav className="flex h-full flex-col overflow-hidden bg-card" aria-label="Parts">
      <div className="flex items-center gap-1 p-2 pb-1.5">
        <Search text={text} found={found} setText={setText} />
        <DrawerPin what="parts" />
      </div>
      <div className="flex-1 overflow-auto pb-3">
        {text.trim() === ''
          ? SHOWN.filter(({ name }) => family === 'all' || name === family).map(({ name, label }) => (
              <FamilyPart key={name} family={name} label={label} />
            ))
          : found.map((item) =>
              item.kind === 'part' ? (
                <Part key={item.part.type} module={item.part} />
              ) : (
                <ComingPart key={item.coming.label} found={item} />
              ),
            )}
        {(family === 'kept' || family === 'all' || text.trim() !== '') && (
          <Suspense>
            <KeptParts text={text} />
          </Suspense>
        )}
        {found.length === 0 && (
          <div className="px-3 py-2">
            <Empty>No part of this name. Try what it does: “slow”, “echo”, “brighter”.</Empty>
          </div>
        )}
      </div>
    </nav>
  )
}

interface MarkProps {
  readonly name: DrawerName
  readonly label: string
  readonly keys?: string
  readonly children: ReactElement
}

/** One mark of the rail: it opens what it stands for over the chart, or closes it. */
const RailMark = ({ name, label, keys, children }: MarkProps) => {
  const { workspace } = useApp()
  const isOpen = useWorkspace((state) => state.drawer === name)
  return (
    <IconButton
      label={label}
      keys={keys}
      side="right"
      className="rail-button"
      aria-expanded={isOpen}
      onClick={() => {
        workspace.getState().openDrawer(isOpen ? undefined : name)
      }}
    >
      {children}
    </IconButton>
  )
}

/** Left: the finder, then one mark a family; each opens its drawer over the chart. */
export const Rail = memo(() => {
  const { chart } = useApp()
  return (
    <div className="rail" role="toolbar" aria-label="Families of parts" aria-orientation="vertical">
      <IconButton
        label="Find a part"
        keys="/"
        side="right"
        className="rail-button"
        onClick={() => {
          chart.openFinder()
        }}
      >
        <SearchIcon size={16} />
      </IconButton>
      {SHOWN.map(({ name, label, mark }) => (
        <RailMark key={name} name={name} label={label}>
          <ModuleMark module={{ mark }} />
        </RailMark>
      ))}
      <RailMark name="kept" label="Kept sections and modules">
        <Bookmark size={16} />
      </RailMark>
      <RailMark name="all" label="All parts">
        <List size={16} />
      </RailMark>
      <RailMark name="outline" label="Outline of the patch" keys="Ctrl+Alt+O">
        <ListTree size={16} />
      </RailMark>
    </div>
  )
})

/** The drawer over the chart, while it is open and not kept so; a press beside it closes it. */
export const Drawer = () => {
  const { workspace } = useApp()
  const drawer = useWorkspace((state) => state.drawer),
    isPinned = useWorkspace((state) => state.panels.parts)
  return drawer !== undefined && !isPinned ? (
    <OpenDrawer
      family={drawer}
      onClose={() => {
        workspace.getState().openDrawer(undefined)
      }}
    />
  ) : null
}

interface DrawerProps {
  readonly family: DrawerName
  readonly onClose: () => void
}

const OpenDrawer = ({ family, onClose }: DrawerProps) => {
  const box = useOutside((target) => {
    // A press on the rail says itself what it opens.
    if (!target.closest('.rail, .menu')) onClose()
  })
  return (
    <div
      ref={box}
      className="drawer"
      onKeyDown={(event) => {
        if (event.key !== 'Escape' || event.defaultPrevented) return
        event.preventDefault()
        onClose()
      }}
    >
      {family === 'outline' ? (
        <Suspense>
          <Outline />
        </Suspense>
      ) : (
        <Parts family={family} />
      )}
    </div>
  )
}
