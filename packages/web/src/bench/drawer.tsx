import { FAMILIES, type Family, type ModuleDescription, PUBLIC_MODULES } from '@ypsilon/core'
import { memo, useState } from 'react'
import { chartCentre } from './centre.ts'
import { ModuleMark } from '../ui/icons.tsx'
import { addAndWire } from './commands.ts'

const matches = (module: ModuleDescription, text: string): boolean =>
  text
    .split(/\s+/)
    .every((word) =>
      [module.label, module.type, module.family, module.help.does, ...module.words].some((name) =>
        name.toLowerCase().includes(word),
      ),
    )

const Part = memo(({ module }: { module: ModuleDescription }) => {
  const add = (): void => {
    const { x, y } = chartCentre()
    addAndWire(module.type, x, y)
  }
  return (
    <div
      role="button"
      tabIndex={0}
      draggable
      className="flex cursor-grab items-start gap-2.5 px-3 py-1 hover:bg-wash"
      aria-label={`Add ${module.label}: ${module.help.does}`}
      onDragStart={(event) => {
        event.dataTransfer.setData('application/x-ypsilon-part', module.type)
        event.dataTransfer.effectAllowed = 'copy'
      }}
      onDoubleClick={add}
      onKeyDown={(event) => {
        if (event.key === 'Enter') {
          event.preventDefault()
          add()
        }
      }}
    >
      <span className="mt-0.5">
        <ModuleMark module={module} />
      </span>
      <span className="min-w-0">
        <span className="block leading-4">{module.label}</span>
        <span className="block truncate text-[11.5px] leading-4 text-ink2">{module.help.does}</span>
      </span>
    </div>
  )
})

/** All parts by family, with search. Drag, double-click or Enter adds. */
export const Drawer = () => {
  const [text, setText] = useState('')
  const [closed, setClosed] = useState<ReadonlySet<Family>>(new Set())
  const found = PUBLIC_MODULES.filter((module) => matches(module, text.trim().toLowerCase()))
  const families = FAMILIES.filter(({ name }) => found.some((module) => module.family === name))
  const toggle = (family: Family): void => {
    setClosed((before) => {
      const next = new Set(before)
      if (!next.delete(family)) next.add(family)
      return next
    })
  }
  return (
    <nav
      className="flex h-full w-[220px] shrink-0 flex-col overflow-hidden border-r border-rule bg-card"
      aria-label="Parts"
    >
      <div className="p-2.5 pb-1.5">
        <label className="flex h-8 items-center rounded-[3px] border border-rule px-2 focus-within:border-accent">
          <input
            className="w-full border-0 bg-transparent outline-none placeholder:text-ink2"
            placeholder="Find a part"
            aria-label="Find a part"
            value={text}
            onChange={(event) => {
              setText(event.target.value)
            }}
            onKeyDown={(event) => {
              event.stopPropagation()
              if (event.key === 'Enter' && found[0]) {
                const { x, y } = chartCentre()
                addAndWire(found[0].type, x, y)
              }
              if (event.key === 'Escape') {
                setText('')
                event.currentTarget.blur()
              }
            }}
          />
          <kbd className="mono text-ink2">/</kbd>
        </label>
      </div>
      <div className="flex-1 overflow-auto pb-3">
        {families.map(({ name: family, label }) => {
          const parts = found.filter((module) => module.family === family)
          const isOpen = text !== '' || !closed.has(family)
          return (
            <section key={family}>
              <button
                type="button"
                className="flex w-full items-center justify-between border-0 bg-transparent px-3 py-1.5 text-left"
                aria-expanded={isOpen}
                onClick={() => {
                  toggle(family)
                }}
              >
                <span className="panel-title">{label}</span>
                <span className="mono text-ink2">{parts.length}</span>
              </button>
              {isOpen && parts.map((module) => <Part key={module.type} module={module} />)}
            </section>
          )
        })}
        {found.length === 0 && (
          <p className="px-3 py-2 text-ink2">
            No part of this name. Try what it does: “slow”, “echo”, “brighter”.
          </p>
        )}
      </div>
    </nav>
  )
}
