import {
  CATALOGUE,
  FAMILIES,
  type Family,
  findParts,
  type Found,
  type ModuleDescription,
  PUBLIC_MODULES,
} from '@ypsilon/core'
import { memo, useState } from 'react'
import { useApp } from '../app/context.ts'
import { Empty } from '../ui/panel.tsx'
import { ModuleMark } from '../ui/icons.tsx'
import { SearchField } from '../ui/text-field.tsx'
import { PART } from './chart.tsx'
import { addAndWire } from './edits.ts'

const Part = memo(({ module }: { readonly module: ModuleDescription }) => {
  const app = useApp()
  const add = (): void => {
    addAndWire(app, module.type, app.chart.centre())
  }
  return (
    <div
      role="button"
      tabIndex={0}
      draggable
      className="flex cursor-grab items-start gap-2.5 px-3 py-1 hover:bg-wash"
      aria-label={`Add ${module.label}: ${module.help.does}`}
      onDragStart={(event) => {
        event.dataTransfer.setData(PART, module.type)
        event.dataTransfer.effectAllowed = 'copy'
      }}
      onDoubleClick={add}
      onKeyDown={(event) => {
        if (event.key !== 'Enter') return
        event.preventDefault()
        add()
      }}
    >
      <span className="mt-0.5">
        <ModuleMark module={module} />
      </span>
      <span className="min-w-0">
        <span className="block leading-4">{module.label}</span>
        <span className="block truncate text-11 leading-4 text-ink2">{module.help.does}</span>
      </span>
    </div>
  )
})

/** What was looked for and is not built yet. */
const ComingPart = ({ found }: { readonly found: Extract<Found, { kind: 'coming' }> }) => (
  <p className="m-0 px-3 py-1 text-ink2">
    {found.coming.label} is not built yet. Until then:{' '}
    {found.coming.instead.map((type) => CATALOGUE.get(type)!.description.label).join(', ')}.
  </p>
)

const FamilyPart = ({ family, label }: { readonly family: Family; readonly label: string }) => {
  const [isOpen, setOpen] = useState(true)
  const parts = PUBLIC_MODULES.filter((module) => module.family === family)
  return (
    <section>
      <button
        type="button"
        className="flex w-full items-center justify-between border-0 bg-transparent px-3 py-1.5 text-left"
        aria-expanded={isOpen}
        onClick={() => {
          setOpen(!isOpen)
        }}
      >
        <span className="panel-title">{label}</span>
        <span className="mono text-ink2">{parts.length}</span>
      </button>
      {isOpen && parts.map((module) => <Part key={module.type} module={module} />)}
    </section>
  )
}

/** All parts by family, with search. Drag, double-click or Enter adds. */
export const Parts = () => {
  const app = useApp()
  const [text, setText] = useState('')
  const found = findParts(PUBLIC_MODULES, text)
  return (
    <nav className="flex h-full flex-col overflow-hidden bg-card" aria-label="Parts">
      <div className="p-2.5 pb-1.5">
        <SearchField
          label="Find a part"
          placeholder="Find a part"
          className="w-full"
          value={text}
          onChange={setText}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && found[0]?.kind === 'part')
              addAndWire(app, found[0].part.type, app.chart.centre())
            if (event.key === 'Escape') {
              event.preventDefault()
              app.chart.focus()
            }
          }}
        />
      </div>
      <div className="flex-1 overflow-auto pb-3">
        {text.trim() === ''
          ? FAMILIES.filter(({ name }) => PUBLIC_MODULES.some(({ family }) => family === name)).map(
              ({ name, label }) => <FamilyPart key={name} family={name} label={label} />,
            )
          : found.map((item) =>
              item.kind === 'part' ? (
                <Part key={item.part.type} module={item.part} />
              ) : (
                <ComingPart key={item.coming.label} found={item} />
              ),
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
