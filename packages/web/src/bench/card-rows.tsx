/** The whole of a card: its head and all rows that are shown. On the chart when it is near, and in the loupe. */
import {
  descriptionOf,
  type InRow,
  type OutputDescription,
  type ParamDescription,
  rowName,
  rowTarget,
  splitTarget,
  takesCable,
} from '@ypsilon/core'
import { memo, useMemo } from 'react'
import { useApp } from '../app/context.ts'
import { PortMark } from '../ui/icons.tsx'
import { CardHead } from './card-head.tsx'
import { CardParam } from './card-param.tsx'
import type { PlacedCard } from './chart/places.ts'
import { pin } from './probe/target.ts'
import { usePortKeys } from './port-keys.ts'

interface PortProps {
  readonly port: string
  readonly side: 'input' | 'output'
  readonly name: string
  readonly connected: boolean
}

/** A port for the keyboard and for those who do not see it; the pointer finds it by its place. */
const Port = ({ port, side, name, connected }: PortProps) => {
  const keys = usePortKeys(port, side)
  return (
    <span
      className={`port nokey ${side === 'output' ? 'source' : 'target'}`}
      data-port={port}
      role="button"
      tabIndex={0}
      aria-label={`${side === 'output' ? 'Output' : 'Input'} ${name}${connected ? ', connected' : ''}`}
      onKeyDown={keys}
    />
  )
}

interface LeftRowProps {
  readonly id: string
  readonly row: InRow
  readonly connected: boolean
}

/** The field of a row: of the card's own module, or of one inside that its group shows. */
export const ParamOf = ({
  id,
  param,
  connected,
}: {
  readonly id: string
  readonly param: ParamDescription
  readonly connected: boolean
}) => {
  const [module = id, name = param.name] = param.name.includes('.') ? splitTarget(param.name)! : []
  const own = useMemo(() => (name === param.name ? param : { ...param, name }), [param, name])
  return <CardParam id={module} param={own} connected={connected} />
}

const LeftRow = memo(({ id, row, connected }: LeftRowProps) => {
  const name = rowName(row),
    port = rowTarget(id, name)
  return (
    <div className="row in" data-row={port}>
      {takesCable(row) && (
        <>
          <Port port={port} side="input" name={name} connected={connected} />
          {(row.kind === 'input' || connected) && (
            <span className="port-mark left-0">
              <PortMark kind={row.kind === 'input' ? row.port.kind : 'control'} filled={connected} />
            </span>
          )}
        </>
      )}
      {row.kind === 'input' ? (
        <>
          <span>{row.port.label ?? name}</span>
          {!connected && row.port.normalled !== undefined && (
            <span className="small truncate text-ink2">{row.port.normalled}</span>
          )}
        </>
      ) : (
        <ParamOf id={id} param={row.param} connected={connected} />
      )}
    </div>
  )
})

interface RightRowProps {
  readonly id: string
  readonly port: OutputDescription
  readonly connected: boolean
}

/** An output; its live trace is drawn over the row, left of the name. */
const RightRow = memo(({ id, port, connected }: RightRowProps) => {
  const app = useApp()
  const key = rowTarget(id, port.name)
  return (
    <div
      className="row out"
      onClick={(event) => {
        if (!event.shiftKey) return
        event.stopPropagation()
        pin(app, key)
      }}
    >
      <span>{port.label ?? port.name}</span>
      <Port port={key} side="output" name={port.name} connected={connected} />
      <span className="port-mark left-full">
        <PortMark kind={port.kind} filled={connected} />
      </span>
    </div>
  )
})

interface RowsProps {
  readonly card: PlacedCard
}

export const CardRows = memo(({ card }: RowsProps) => {
  const { id, module, layout, used, isOpen } = card
  return (
    <>
      <CardHead module={module} hidden={layout.hidden} isOpen={isOpen} />
      <div className="rows">
        {!descriptionOf(module) && <div className="row in text-ink2">“{module.type}” is not known here</div>}
        {layout.rows.map((row) => (
          <LeftRow key={rowName(row)} id={id} row={row} connected={used.has(rowName(row))} />
        ))}
        {layout.outputs.map((port) => (
          <RightRow key={port.name} id={id} port={port} connected={used.has(port.name)} />
        ))}
      </div>
    </>
  )
})
