import {
  FAMILIES,
  isSignalParam,
  type ModuleDescription,
  PUBLIC_MODULES,
  defaultOf,
  rangeOf,
} from '@ypsilon/core'
import { useState } from 'react'
import { ModuleMark, PortMark } from '../ui/icons.tsx'

const Entry = ({ module }: { module: ModuleDescription }) => (
  <article className="border-b border-rule py-4" id={module.type}>
    <h2 className="flex items-center gap-2 text-[15px] font-semibold">
      <ModuleMark module={module} />
      {module.label}
      <span className="mono font-normal text-ink2">
        {module.type} · {FAMILIES.find(({ name }) => name === module.family)!.label.toLowerCase()}
      </span>
    </h2>
    <p className="mt-1 max-w-[70ch]">
      {module.help.does}. {module.help.how}
    </p>
    <p className="mt-1 max-w-[70ch] text-ink2">
      {module.help.ranges} {module.help.start}
    </p>
    <div className="mt-2 grid grid-cols-[180px_180px_1fr] gap-6">
      <section>
        <h3 className="panel-title">Inputs</h3>
        {module.inputs.length === 0 ? (
          <p className="text-ink2">none</p>
        ) : (
          module.inputs.map((port) => (
            <p key={port.name} className="m-0 flex items-center gap-1.5">
              <PortMark kind={port.kind} filled />
              {port.name}
            </p>
          ))
        )}
      </section>
      <section>
        <h3 className="panel-title">Outputs</h3>
        {module.outputs.length === 0 ? (
          <p className="text-ink2">none</p>
        ) : (
          module.outputs.map((port) => (
            <p key={port.name} className="m-0 flex items-center gap-1.5">
              <PortMark kind={port.kind} filled />
              {port.name}
            </p>
          ))
        )}
      </section>
      <section>
        <h3 className="panel-title">Parameters</h3>
        <table className="w-full border-collapse text-[12.5px]">
          <tbody>
            {module.params.map((param) => (
              <tr key={param.name}>
                <td className="mono pr-3">{param.name}</td>
                <td className="pr-3">
                  {param.kind === 'choice' && param.choices.length > 8
                    ? `${param.choices.slice(0, 3).join(', ')} … ${param.choices.at(-1)}`
                    : rangeOf(param)}
                </td>
                <td className="text-ink2">
                  {defaultOf(param)}
                  {isSignalParam(param) ? '' : ', takes no cable'}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </div>
  </article>
)

/** The module reference, from the same descriptions the engine uses. */
export const Guide = () => {
  const [text, setText] = useState('')
  const found = PUBLIC_MODULES.filter((module) =>
    [module.label, module.type, module.help.does, ...module.words].some((word) =>
      word.toLowerCase().includes(text.toLowerCase()),
    ),
  )
  return (
    <main className="h-full overflow-auto bg-card">
      <div className="mx-auto max-w-[960px] px-6 py-5">
        <h1 className="mb-3 text-[19px] font-semibold">Module reference</h1>
        <input
          className="h-8 w-[320px] rounded-[3px] border border-rule bg-transparent px-2"
          placeholder="Find a module"
          aria-label="Find a module"
          value={text}
          onChange={(event) => {
            setText(event.target.value)
          }}
          onKeyDown={(event) => {
            event.stopPropagation()
          }}
        />
        {found.map((module) => (
          <Entry key={module.type} module={module} />
        ))}
        {found.length === 0 && (
          <p className="py-6 text-ink2">
            No module of this name. Try what it does: “slow”, “echo”, “brighter”.
          </p>
        )}
      </div>
    </main>
  )
}
