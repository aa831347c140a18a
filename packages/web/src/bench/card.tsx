import { CATALOGUE, descriptionOf, type OutputDescription, type PatchModule } from '@ypsilon/core'
import { Handle, Position, type NodeProps, type Node } from '@xyflow/react'
import { type KeyboardEvent, memo, useEffect, useRef } from 'react'
import { useApp, useWorkspace } from '../app/context.ts'
import { PortMark } from '../ui/icons.tsx'
import { CardHead } from './card-head.tsx'
import { CardParam } from './card-param.tsx'
import { cardLayout, type InRow, rowName, takesCable } from './geometry.ts'
import { usePortKeys } from './port-keys.ts'

export interface CardData extends Record<string, unknown> {
  readonly module: PatchModule
  /** Names of ports that have cables, apart by spaces. */
  readonly inputs: string
  readonly outputs: string
}
export type CardNode = Node<CardData, 'card'>

/** The live picture of an output: the patch shows what flows, everywhere. */
const Trace = memo(({ id, port }: { id: string; port: OutputDescription }) => {
  const { frames } = useApp()
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => frames.trace(canvas.current!, `${id}.${port.name}`, port.kind), [frames, id, port])
  return <canvas ref={canvas} style={{ width: 56, height: 16 }} aria-hidden="true" />
})

interface LeftRowProps {
  readonly id: string
  readonly row: InRow
  readonly connected: boolean
}

const LeftRow = memo(({ id, row, connected }: LeftRowProps) => {
  const name = rowName(row),
    port = `${id}.${name}`
  const kind = row.kind === 'input' ? row.port.kind : 'control'
  const keys = usePortKeys(port, 'input')
  return (
    <div className="row in" data-row={port}>
      {takesCable(row) && (
        <>
          <Handle
            type="target"
            position={Position.Left}
            id={name}
            data-port={port}
            role="button"
            tabIndex={0}
            aria-label={`Input ${name}${connected ? ', connected' : ''}`}
            onKeyDown={keys}
          />
          {(row.kind === 'input' || connected) && (
            <span className="pointer-events-none absolute left-0 top-1/2 -translate-x-1/2 -translate-y-1/2">
              <PortMark kind={kind} filled={connected} />
            </span>
          )}
        </>
      )}
      {row.kind === 'input' ? (
        <>
          <span>{row.port.label ?? name}</span>
          {!connected && row.port.normalled !== undefined && (
            <span className="truncate text-11 text-ink2">{row.port.normalled}</span>
          )}
        </>
      ) : (
        <CardParam id={id} param={row.param} connected={connected} />
      )}
    </div>
  )
})

interface RightRowProps {
  readonly id: string
  readonly port: OutputDescription
  readonly connected: boolean
}

const RightRow = memo(({ id, port, connected }: RightRowProps) => {
  const { workspace } = useApp()
  const key = `${id}.${port.name}`
  const keys = usePortKeys(key, 'output')
  return (
    <div
      className="row out"
      onClick={(event) => {
        if (!event.shiftKey) return
        event.stopPropagation()
        workspace.getState().pin(key)
      }}
    >
      <Trace id={id} port={port} />
      <span>{port.label ?? port.name}</span>
      <Handle
        type="source"
        position={Position.Right}
        id={port.name}
        data-port={key}
        role="button"
        tabIndex={0}
        aria-label={`Output ${port.name}${connected ? ', connected' : ''}`}
        onKeyDown={keys}
      />
      <span className="pointer-events-none absolute right-0 top-1/2 -translate-y-1/2 translate-x-1/2">
        <PortMark kind={port.kind} filled={connected} />
      </span>
    </div>
  )
})

/** A module on the chart. The keyboard's focus on it selects it. */
export const Card = memo(({ id, data, selected }: NodeProps<CardNode>) => {
  const { document, workspace } = useApp()
  const { module } = data
  const isOpen = useWorkspace((state) => state.open.has(id))
  const layout = cardLayout(document.getState().patch, module, isOpen)
  const inputs = new Set(data.inputs.split(' ')),
    outputs = new Set(data.outputs.split(' '))
  const label = module.label ?? CATALOGUE.get(module.type)?.description.label ?? module.type
  return (
    <div
      className="card nokey"
      data-selected={selected}
      data-bypassed={module.bypass === true}
      data-module={id}
      role="group"
      tabIndex={0}
      aria-label={label}
      style={{ height: layout.height }}
      onFocus={(event) => {
        if (event.target === event.currentTarget && event.currentTarget.matches(':focus-visible'))
          workspace.getState().select([id])
      }}
      onKeyDown={(event: KeyboardEvent) => {
        if (event.key === 'Enter' && event.target === event.currentTarget) {
          event.preventDefault()
          workspace.getState().toggleRows(id)
        }
      }}
    >
      <CardHead module={module} hidden={layout.hidden} isOpen={isOpen} />
      <div className="rows">
        {!descriptionOf(module) && <div className="row in text-ink2">“{module.type}” is not known here</div>}
        {layout.rows.map((row) => (
          <LeftRow key={rowName(row)} id={id} row={row} connected={inputs.has(rowName(row))} />
        ))}
        {layout.outputs.map((port) => (
          <RightRow key={port.name} id={id} port={port} connected={outputs.has(port.name)} />
        ))}
      </div>
    </div>
  )
})
