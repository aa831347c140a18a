import { FAMILIES, findParts, type ModuleDescription, PUBLIC_MODULES } from '@ypsilon/core'
import { useState } from 'react'
import { Empty } from '../ui/panel.tsx'
import { SearchField } from '../ui/text-field.tsx'
import { Entry } from './entry.tsx'

interface ContentsProps {
  readonly found: readonly ModuleDescription[]
}

/** Every module by family; a press goes to it. */
const Contents = ({ found }: ContentsProps) => (
  <nav className="w-44 shrink-0 overflow-auto border-r border-rule px-3 py-5" aria-label="Contents">
    {FAMILIES.map(({ name, label }) => {
      const modules = found.filter(({ family }) => family === name)
      return modules.length === 0 ? null : (
        <section key={name} className="mb-3">
          <h2 className="panel-title mb-1 text-12">{label}</h2>
          <ul className="m-0 list-none p-0">
            {modules.map(({ type, label: own }) => (
              <li key={type}>
                <a className="contents" href={`#${type}`}>
                  {own}
                </a>
              </li>
            ))}
          </ul>
        </section>
      )
    })}
  </nav>
)

/** The module reference, from the same descriptions the engine uses. */
export const Guide = () => {
  const [text, setText] = useState('')
  const all = findParts(PUBLIC_MODULES, text)
  const found = all.flatMap((item) => (item.kind === 'part' ? [item.part] : [])),
    coming = all.flatMap((item) => (item.kind === 'coming' ? [item.coming] : []))
  return (
    <main className="flex h-full bg-card" aria-label="Guide">
      <Contents found={found} />
      <div className="min-w-0 flex-1 overflow-auto" tabIndex={-1}>
        <div className="mx-auto max-w-[960px] px-6 py-5">
          <h1 className="mb-3 text-20 font-semibold">Module reference</h1>
          <SearchField
            label="Find a module"
            placeholder="Find a module"
            className="w-80"
            value={text}
            onChange={setText}
          />
          {coming.map(({ label, instead }) => (
            <p key={label} className="mt-3">
              {label} is not built yet. Until then: {instead.join(', ')}.
            </p>
          ))}
          {found.map((module) => (
            <Entry key={module.type} module={module} />
          ))}
          {all.length === 0 && (
            <div className="py-6">
              <Empty>No module of this name. Try what it does: “slow”, “echo”, “brighter”.</Empty>
            </div>
          )}
        </div>
      </div>
    </main>
  )
}
