import {
  own,
  CATALOGUE,
  descriptionOf,
  modulated,
  type NumberParam,
  type OutputDescription,
  type ParamDescription,
  paramAt,
  type Patch,
  type PatchModule,
  setParam,
  toScale,
} from '@ypsilon/core'
import { Handle, Position, type NodeProps, type Node } from '@xyflow/react'
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { ChevronDown, ChevronUp, Power } from 'lucide-react'
import { useDocument } from '../store/document.ts'
import { useSession } from '../store/session.ts'
import { ModuleMark, PortMark } from '../ui/icons.tsx'
import { ParamField } from '../ui/param-field.tsx'
import { cardLayout, type InRow, rowName, takesCable } from './geometry.ts'
import { registerMoved, registerTick, registerTrace } from './live.ts'

export interface CardData extends Record<string, unknown> {
  readonly module: PatchModule
  readonly inputs: string
  readonly outputs: string
}
export type CardNode = Node<CardData, 'card'>

/** The live picture of an output: the patch shows what flows, everywhere. */
const Trace = memo(({ id, port }: { id: string; port: OutputDescription }) => {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => registerTrace(canvas.current!, `${id}.${port.name}`, port.kind), [id, port])
  return <canvas ref={canvas} style={{ width: 56, height: 16 }} aria-hidden="true" />
})

/** Reach of the cables on a parameter, as scale positions: control and audio swing both ways, gates and envelopes up. */
export const reachOf = (
  patch: Patch,
  id: string,
  param: NumberParam,
): readonly [number, number] | undefined => {
  const cables = patch.cables.filter((cable) => cable.to === `${id}.${param.name}` && !cable.muted)
  if (cables.length === 0) return undefined
  const module = patch.modules.find((item) => item.id === id)
  const base = Number(own(module?.params, param.name) ?? param.default)
  let up = 0,
    down = 0
  for (const cable of cables) {
    const [source = '', port = ''] = cable.from.split('.')
    const type = patch.modules.find((item) => item.id === source)?.type ?? '',
      output = CATALOGUE.get(type)?.outputs.get(port)
    const oneWay = output?.oneSided === true || output?.kind === 'gate'
    const amount = cable.amount ?? 1
    if (amount > 0 || !oneWay) up += Math.abs(amount)
    if (amount < 0 || !oneWay) down += Math.abs(amount)
  }
  return [toScale(param, modulated(param, base, -down)), toScale(param, modulated(param, base, up))]
}

const ParamRow = memo(
  ({ id, param: known, connected }: { id: string; param: ParamDescription; connected: boolean }) => {
    const word = useDocument((state) =>
      known.kind === 'number' && known.follows
        ? own(state.patch.modules.find((module) => module.id === id)?.params, known.follows.choice)
        : undefined,
    )
    const param = useMemo(
      () => paramAt(known, known.kind === 'number' && known.follows ? { [known.follows.choice]: word } : {}),
      [known, word],
    )
    const value = useDocument(
      (state) =>
        own(state.patch.modules.find((module) => module.id === id)?.params, param.name) ?? param.default,
    )
    const tempo = useDocument((state) => state.patch.tempo ?? 120)
    const change = useDocument((state) => state.change)
    const low = useDocument((state) =>
      connected && param.kind === 'number' ? reachOf(state.patch, id, param)?.[0] : undefined,
    )
    const high = useDocument((state) =>
      connected && param.kind === 'number' ? reachOf(state.patch, id, param)?.[1] : undefined,
    )
    const row = useRef<HTMLDivElement>(null)
    const set = useCallback(
      (next: string | number | boolean, gesture: string) => {
        change(
          `Set ${param.label.toLowerCase()}`,
          (draft) => {
            setParam(draft, id, param.name, next)
          },
          `${id}.${param.name} ${gesture}`,
        )
      },
      [change, id, param],
    )
    const live = connected && param.kind === 'number' ? `>${id}.${param.name}` : undefined
    useEffect(() => {
      const element = row.current?.querySelector<HTMLElement>('[data-live]')
      return element && live !== undefined && param.kind === 'number'
        ? registerTick(element, live, param)
        : undefined
    }, [live, param])
    const moved = useCallback(
      (element: HTMLElement | null) => registerMoved(element, `${id}.${param.name}`, param),
      [id, param],
    )
    return (
      <div ref={row} className="w-full">
        <ParamField
          param={param}
          value={value}
          tempo={tempo}
          band={low !== undefined && high !== undefined ? [low, high] : undefined}
          live={live}
          moved={moved}
          onChange={set}
        />
      </div>
    )
  },
)

const startProbe =
  (key: string) =>
  (event: React.MouseEvent): void => {
    if (!event.shiftKey) return
    event.stopPropagation()
    useSession.getState().set({ probe: key, dock: true, dockTab: 'probe' })
  }

const LeftRow = memo(({ id, row, connected }: { id: string; row: InRow; connected: boolean }) => {
  const name = rowName(row)
  const kind = row.kind === 'input' ? row.port.kind : 'control'
  return (
    <div className="row in" data-row={`${id}.${name}`}>
      {takesCable(row) && (
        <>
          <Handle
            type="target"
            position={Position.Left}
            id={name}
            data-port={`${id}.${name}`}
            aria-label={`input ${name}`}
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
            <span className="truncate text-[11px] text-ink2">{row.port.normalled}</span>
          )}
        </>
      ) : (
        <ParamRow id={id} param={row.param} connected={connected} />
      )}
    </div>
  )
})

const RightRow = memo(
  ({ id, port, connected }: { id: string; port: OutputDescription; connected: boolean }) => (
    <div className="row out" onClick={startProbe(`${id}.${port.name}`)}>
      <Trace id={id} port={port} />
      <span>{port.label ?? port.name}</span>
      <Handle
        type="source"
        position={Position.Right}
        id={port.name}
        data-port={`${id}.${port.name}`}
        aria-label={`output ${port.name}`}
        title="Drag to connect, Shift-click to probe"
      />
      <span className="pointer-events-none absolute right-0 top-1/2 -translate-y-1/2 translate-x-1/2">
        <PortMark kind={port.kind} filled={connected} />
      </span>
    </div>
  ),
)

const Head = memo(({ module, hidden, isOpen }: { module: PatchModule; hidden: number; isOpen: boolean }) => {
  const change = useDocument((state) => state.change)
  const [renaming, setRenaming] = useState(false)
  const description = descriptionOf(module)
  const label = module.label ?? description?.label ?? module.type
  const selected = useSession((state) => state.selection.length === 1 && state.selection[0] === module.id)
  useEffect(() => {
    if (!selected) return undefined
    const rename = (event: KeyboardEvent): void => {
      if (event.key === 'F2') {
        event.preventDefault()
        setRenaming(true)
      }
    }
    window.addEventListener('keydown', rename)
    return () => {
      window.removeEventListener('keydown', rename)
    }
  }, [selected])
  const toggleOpen = (): void => {
    const { open, set } = useSession.getState()
    const next = new Set(open)
    if (!next.delete(module.id)) next.add(module.id)
    set({ open: next })
  }
  const commit = (text: string): void => {
    setRenaming(false)
    const name = text.trim()
    if (name !== label)
      change('Rename', (draft) => {
        const item = draft.modules.find((other) => other.id === module.id)
        if (item) {
          if (name && name !== description?.label) item.label = name
          else delete item.label
        }
      })
  }
  return (
    <div
      className="head"
      onDoubleClick={(event) => {
        event.stopPropagation()
        setRenaming(true)
      }}
    >
      {description && <ModuleMark module={description} />}
      {renaming ? (
        <input
          autoFocus
          className="nodrag w-full border-0 border-b border-accent bg-transparent font-semibold"
          aria-label="Name"
          defaultValue={label}
          onFocus={(event) => {
            event.target.select()
          }}
          onBlur={(event) => {
            commit(event.target.value)
          }}
          onKeyDown={(event) => {
            event.stopPropagation()
            if (event.key === 'Enter') commit(event.currentTarget.value)
            if (event.key === 'Escape') setRenaming(false)
          }}
        />
      ) : (
        <span className="panel-title truncate">{label}</span>
      )}
      <span className="kind ml-auto truncate text-[11.5px] text-ink2">
        {module.label !== undefined ? description?.label.toLowerCase() : ''}
        {module.bypass ? ' bypassed' : ''}
      </span>
      <span className="tools ml-auto items-center">
        {description?.bypass && (
          <button
            type="button"
            className="iconbtn nodrag !h-6 !min-w-6"
            aria-pressed={module.bypass === true}
            title="Bypass (Ctrl+B)"
            aria-label="Bypass"
            onClick={() => {
              change('Bypass', (draft) => {
                const item = draft.modules.find((other) => other.id === module.id)
                if (item) item.bypass = !item.bypass
              })
            }}
          >
            <Power size={13} />
          </button>
        )}
        {(hidden > 0 || isOpen) && (
          <button
            type="button"
            className="iconbtn nodrag !h-6 !min-w-6"
            aria-expanded={isOpen}
            title={isOpen ? 'Show only rows in use' : `Show ${hidden} more rows`}
            aria-label={isOpen ? 'Fewer rows' : 'More rows'}
            onClick={toggleOpen}
          >
            {isOpen ? <ChevronUp size={15} /> : <ChevronDown size={15} />}
          </button>
        )}
      </span>
    </div>
  )
})

/** A module on the chart. */
export const Card = memo(({ id, data, selected }: NodeProps<CardNode>) => {
  const { module } = data
  const isOpen = useSession((state) => state.open.has(id))
  const patch = useDocument.getState().patch
  const layout = cardLayout(patch, module, isOpen)
  const inputs = new Set(data.inputs.split(' ')),
    outputs = new Set(data.outputs.split(' '))
  return (
    <div
      className="card"
      data-selected={selected}
      data-bypassed={module.bypass === true}
      data-module={id}
      role="group"
      aria-label={`${module.label ?? CATALOGUE.get(module.type)?.description.label ?? module.type}`}
      style={{ height: layout.height }}
    >
      <Head module={module} hidden={layout.hidden} isOpen={isOpen} />
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
