/** A group in the inspector: its ports, what it shows outside, and what can be done with it as a whole. */
import {
  addModule,
  descriptionOf,
  type FaceRow,
  faceOf,
  isPort,
  labelOf,
  movePort,
  nearestFree,
  patchIndex,
  type PatchModule,
  removeModules,
  setParam,
  type SignalKind,
  splitTarget,
} from '@ypsilon/core'
import { cardRect } from '@ypsilon/core/layout/free.ts'
import { faceChoices, setFace, toggleFace } from '@ypsilon/core/patch/face.ts'
import { ChevronDown, ChevronUp, X } from 'lucide-react'
import { CommandButton } from '../app/command-button.tsx'
import { useApp, useDocument } from '../app/context.ts'
import { Button, IconButton } from '../ui/button.tsx'
import { PortMark } from '../ui/icons.tsx'
import { Empty, Section } from '../ui/panel.tsx'
import { Choice } from '../ui/select.tsx'
import { TextField } from '../ui/text-field.tsx'

const KINDS: readonly SignalKind[] = ['audio', 'control', 'pitch', 'gate']

interface OrderProps {
  readonly name: string
  readonly isFirst: boolean
  readonly isLast: boolean
  readonly onMove: (by: -1 | 1) => void
  readonly onRemove: () => void
}

/** Up, down and away. */
const Order = ({ name, isFirst, isLast, onMove, onRemove }: OrderProps) => (
  <span className="flex shrink-0">
    <IconButton
      isSmall
      label={`Move ${name} up`}
      disabled={isFirst}
      onClick={() => {
        onMove(-1)
      }}
    >
      <ChevronUp size={13} />
    </IconButton>
    <IconButton
      isSmall
      label={`Move ${name} down`}
      disabled={isLast}
      onClick={() => {
        onMove(1)
      }}
    >
      <ChevronDown size={13} />
    </IconButton>
    <IconButton isSmall label={`Remove ${name}`} onClick={onRemove}>
      <X size={13} />
    </IconButton>
  </span>
)

interface GroupProps {
  readonly module: PatchModule
}

interface PortProps {
  readonly port: PatchModule
  readonly isFirst: boolean
  readonly isLast: boolean
}

/** One port: what it carries, its name, its place among the others. */
const PortRow = ({ port, isFirst, isLast }: PortProps) => {
  const { document, chart } = useApp()
  const name = useDocument(({ patch }) => labelOf(patch, port.id)),
    kind = (descriptionOf(port)?.inputs[0] ?? descriptionOf(port)?.outputs[0])?.kind ?? 'audio'
  const { change } = document.getState()
  return (
    <li className="flex items-center gap-1.5 py-[2px]">
      <PortMark kind={kind} filled />
      <span className="min-w-0 flex-1">
        <TextField
          label={`Name of the port ${name}`}
          value={name}
          onCommit={(text) => {
            if (!text.trim()) return 'A port needs a name.'
            change(`Rename the port ${name}`, (draft) => {
              setParam(draft, port.id, 'name', text)
            })
            return undefined
          }}
        />
      </span>
      <Choice
        label={`What ${name} carries`}
        value={kind}
        options={KINDS.map((value) => ({ value }))}
        onPointed={chart.focus}
        onChange={(value) => {
          change(`Set what ${name} carries`, (draft) => {
            setParam(draft, port.id, 'kind', value)
          })
        }}
      />
      <Order
        name={name}
        isFirst={isFirst}
        isLast={isLast}
        onMove={(by) => {
          change(`Move the port ${name}`, (draft) => {
            movePort(draft, port.id, by)
          })
        }}
        onRemove={() => {
          change(`Remove the port ${name}`, (draft) => {
            removeModules(draft, new Set([port.id]))
          })
        }}
      />
    </li>
  )
}

interface SideProps extends GroupProps {
  readonly type: 'portin' | 'portout'
  readonly words: string
}

/** The ports of one side, and one more. */
const Side = ({ module, type, words }: SideProps) => {
  const { document } = useApp()
  const ports = (module.inside?.modules ?? []).filter((inner) => inner.type === type)
  const add = (): void => {
    const inside = module.inside!.modules,
      level = { ...document.getState().patch, ...module.inside }
    const xs = inside.map(({ x = 0 }) => x),
      ys = ports.map(({ y = 0 }) => y)
    const rects = inside.map((inner) => cardRect(level, inner))
    const x = type === 'portin' ? Math.min(...xs, 264) - (ports.length > 0 ? 0 : 264) : Math.max(...xs, 0)
    const place = nearestFree(rects, { x, y: Math.max(0, ...ys), width: 192, height: 96 })
    document.getState().change(`Add an ${words}`, (draft) => {
      const id = addModule(draft, type, place.x, place.y, module.id)
      setParam(draft, id, 'name', type === 'portin' ? 'in' : 'out')
    })
  }
  return (
    <>
      <ul className="m-0 list-none p-0" aria-label={`${words}s of the group`}>
        {ports.map((port, index) => (
          <PortRow key={port.id} port={port} isFirst={index === 0} isLast={index === ports.length - 1} />
        ))}
      </ul>
      <Button look="small" className="mb-1.5 mt-0.5" onClick={add}>
        Add an {words}
      </Button>
    </>
  )
}

interface FaceProps extends GroupProps {
  readonly row: FaceRow
  readonly rows: readonly FaceRow[]
}

/** One row that is shown outside, with the name it has there. */
const FaceLine = ({ module, row, rows }: FaceProps) => {
  const { document } = useApp()
  const patch = useDocument((state) => state.patch),
    { change } = document.getState()
  const [id = '', name = ''] = splitTarget(row.param) ?? []
  const inner = patchIndex(patch).module.get(id)
  const usual = inner && descriptionOf(inner)?.params.find((param) => param.name === name)?.label,
    label = row.label ?? usual ?? row.param
  const write = (words: string, next: readonly FaceRow[]): void => {
    change(words, (draft) => {
      setFace(draft, module.id, next)
    })
  }
  const at = rows.indexOf(row)
  return (
    <li className="flex items-center gap-1.5 py-[2px]">
      <span className="min-w-0 flex-1">
        <TextField
          label={`Name of ${row.param} outside`}
          value={label}
          onCommit={(text) => {
            const { label: _, ...bare } = row,
              typed = text.trim()
            const next = typed && typed !== usual ? { ...bare, label: typed } : bare
            write(
              `Rename ${label}`,
              rows.map((other) => (other === row ? next : other)),
            )
            return undefined
          }}
        />
      </span>
      <span className="max-w-[92px] truncate text-12 text-ink2">{labelOf(patch, id)}</span>
      <Order
        name={label}
        isFirst={at === 0}
        isLast={at === rows.length - 1}
        onMove={(by) => {
          const next = [...rows]
          next.splice(at, 1)
          next.splice(at + by, 0, row)
          write(`Move ${label}`, next)
        }}
        onRemove={() => {
          write(
            `Hide ${label}`,
            rows.filter((other) => other !== row),
          )
        }}
      />
    </li>
  )
}

/** What the card of the group shows of what is in it. */
const Face = ({ module }: GroupProps) => {
  const { document, chart } = useApp()
  const patch = useDocument((state) => state.patch),
    rows = faceOf(module),
    more = faceChoices(module)
  return (
    <Section title="Shows outside">
      {rows.length === 0 && <Empty>Choose values that are set on the group’s own card.</Empty>}
      <ul className="m-0 list-none p-0">
        {rows.map((row) => (
          <FaceLine key={row.param} module={module} row={row} rows={rows} />
        ))}
      </ul>
      {more.length > 0 && (
        <Choice
          label="Show a value outside"
          value=""
          onPointed={chart.focus}
          options={[
            { value: '', label: 'Show …' },
            ...more.map(({ target, module: inner, label }) => ({
              value: target,
              label: `${labelOf(patch, inner.id)} ${label}`,
            })),
          ]}
          onChange={(target) => {
            if (!target) return
            document.getState().change('Show a value outside', (draft) => {
              toggleFace(draft, module.id, target)
            })
          }}
        />
      )}
    </Section>
  )
}

export const GroupPanel = ({ module }: GroupProps) => {
  const inner = (module.inside?.modules ?? []).filter((one) => !isPort(one)).length
  return (
    <>
      <section className="flex flex-wrap items-center gap-2 border-b border-rule px-3 py-2">
        <span className="mr-auto text-ink2">
          {inner} {inner === 1 ? 'module' : 'modules'}
        </span>
        <CommandButton command="open-group" look="small" words="Open" />
        <CommandButton command="ungroup" look="small" words="Take apart" />
        <CommandButton command="keep-module" look="small" words="Keep …" />
        {module['own'] !== undefined && (
          <CommandButton command="replace-copies" look="small" words="Make copies alike" />
        )}
      </section>
      <Section title="Ports">
        <Side module={module} type="portin" words="input" />
        <Side module={module} type="portout" words="output" />
      </Section>
      <Face module={module} />
    </>
  )
}
