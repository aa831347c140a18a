import {
  defaultOf,
  FAMILIES,
  isSignalParam,
  type ModuleDescription,
  type ParamDescription,
  rangeOf,
  type SignalKind,
} from '@ypsilon/core'
import { memo } from 'react'
import { useHelp } from '../bench/helps.ts'
import { DefaultPicture } from '../bench/module-picture.tsx'
import { ModuleMark, PortMark } from '../ui/icons.tsx'

interface PortsProps {
  readonly title: string
  readonly ports: readonly { readonly name: string; readonly kind: SignalKind }[]
}

const Ports = ({ title, ports }: PortsProps) => (
  <section>
    <h3 className="panel-title">{title}</h3>
    {ports.length === 0 ? (
      <p className="text-ink2">none</p>
    ) : (
      ports.map((port) => (
        <p key={port.name} className="m-0 flex items-center gap-1.5">
          <PortMark kind={port.kind} filled />
          {port.name}
        </p>
      ))
    )}
  </section>
)

/** Choices that would not fit are told by their first and last. */
const MOST_CHOICES = 8
const rangeWords = (param: ParamDescription): string =>
  param.kind === 'choice' && param.choices.length > MOST_CHOICES
    ? `${param.choices.slice(0, 3).join(', ')} … ${param.choices.at(-1)}`
    : rangeOf(param)

const Params = ({ params }: { readonly params: readonly ParamDescription[] }) => (
  <section>
    <h3 className="panel-title">Parameters</h3>
    <table className="w-full border-collapse text-12">
      <tbody>
        {params.map((param) => (
          <tr key={param.name}>
            <th scope="row" className="mono pr-3 text-left font-normal">
              {param.name}
            </th>
            <td className="pr-3">{rangeWords(param)}</td>
            <td className="text-ink2">
              {defaultOf(param)}
              {isSignalParam(param) ? '' : ', takes no cable'}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  </section>
)

const Words = ({ module }: { readonly module: ModuleDescription }) => {
  const { how, ranges, start } = useHelp(module.type)
  return (
    <>
      <p className="max-w-[70ch]">
        {module.help.does}. {how}
      </p>
      <p className="mt-1 max-w-[70ch] text-ink2">
        {ranges} {start}
      </p>
    </>
  )
}

/** One module: what it does, how to use it, its picture, ports and parameters. */
export const Entry = memo(({ module }: { readonly module: ModuleDescription }) => (
  <article className="border-b border-rule py-4" id={module.type}>
    <h2 className="flex items-center gap-2 text-15 font-semibold">
      <ModuleMark module={module} />
      {module.label}
      <span className="mono font-normal text-ink2">
        {module.type} · {FAMILIES.find(({ name }) => name === module.family)!.label.toLowerCase()}
      </span>
    </h2>
    <div className="mt-1 flex gap-6">
      <div className="min-w-0 flex-1">
        <Words module={module} />
      </div>
      <DefaultPicture description={module} />
    </div>
    <div className="mt-2 grid grid-cols-[160px_160px_1fr] gap-6">
      <Ports title="Inputs" ports={module.inputs} />
      <Ports title="Outputs" ports={module.outputs} />
      <Params params={module.params} />
    </div>
  </article>
))
