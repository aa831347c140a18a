import {
  type DataDescription,
  dataKindOf,
  errorText,
  type ModuleDescription,
  own,
  parseFormula,
  type Patch,
  type PatchModule,
} from '@ypsilon/core'
import { type ComponentType, useState, lazy, Suspense } from 'react'
import { useApp } from '../app/context.ts'
import { dataText, readDataText, setData } from './data-text.ts'
import { Choice } from '../ui/select.tsx'
import { TextField } from '../ui/text-field.tsx'

interface DataProps {
  readonly module: PatchModule
  readonly data: DataDescription
  readonly value: unknown
  readonly patch: Patch
}

/** A formula's text with its first error under it, or ready. One with an error never stays: the old one plays. */
const FormulaText = ({ module, data, value }: DataProps) => {
  const app = useApp()
  const [text, setText] = useState(String(value))
  const error = parseFormula(text, 'module').errors[0]
  const leave = (): void => {
    if (text === value) return
    if (!error) setData(app, module.id, data.name, text)
    else {
      setText(String(value))
      app.notifier.error(`The formula was not taken: ${errorText(error)}`, {
        description: 'What played before stands in its place again.',
        action: {
          label: 'Go on typing',
          onClick: () => {
            setText(text)
          },
        },
      })
    }
  }
  return (
    <div>
      <textarea
        className="text-area mono h-24 resize-y"
        aria-label={`${data.name} of ${module.id}`}
        aria-invalid={error !== undefined}
        spellCheck={false}
        value={text}
        onChange={(event) => {
          setText(event.target.value)
        }}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) event.currentTarget.blur()
          if (event.key !== 'Escape') return
          event.preventDefault()
          setText(String(value))
          app.chart.focus()
        }}
        onBlur={leave}
      />
      <p className={error ? 'text-warn' : 'text-ink2'}>
        {error ? errorText(error) : 'Taken over when you leave the field or press Ctrl+Enter.'}
      </p>
    </div>
  )
}

/** Lists whose missing entries are on. */
const IS_ON: ReadonlySet<string> = new Set(['on', 'scale'])
const SCALE = 12,
  USUAL = 8,
  MOST = 16

/** How many entries of a list play. */
const playing = ({ module, data }: DataProps): number =>
  data.name === 'scale'
    ? SCALE
    : Math.min(data.length ?? MOST, Number(module.params?.['length'] ?? module.params?.['count'] ?? USUAL))

/** On and off for every entry that plays; those beyond stay as they are. */
const Switches = (props: DataProps) => {
  const app = useApp()
  const { module, data, value } = props
  const list = value as readonly unknown[],
    length = playing(props),
    isOn = (index: number): boolean => {
      const item = list[index]
      return item === undefined ? IS_ON.has(data.name) : item === true || item === 1
    }
  const toggle = (index: number): void => {
    const all = Array.from({ length: Math.max(length, list.length) }, (_, i) => isOn(i))
    all[index] = !isOn(index)
    setData(app, module.id, data.name, all)
  }
  return (
    <div className="flex flex-wrap gap-[3px]" role="group" aria-label={data.name}>
      {Array.from({ length }, (_, index) => (
        <button
          key={index}
          type="button"
          aria-pressed={isOn(index)}
          aria-label={`${data.name} ${index + 1}`}
          className="step"
          onClick={() => {
            toggle(index)
          }}
        >
          {index + 1}
        </button>
      ))}
    </div>
  )
}

/** A list of numbers, or anything larger as it stands in the file. */
const ListText = ({ module, data, value }: DataProps) => {
  const app = useApp()
  return (
    <TextField
      className="mono w-full"
      label={`${data.name} of ${module.id}`}
      value={dataText(data, value)}
      placeholder={data.kind === 'numbers' ? 'numbers, apart by spaces' : ''}
      onCommit={(text) => {
        const read = readDataText(data, text)
        if (!read.ok) return read.message
        setData(app, module.id, data.name, read.value)
        return undefined
      }}
    />
  )
}

const TableChoice = ({ module, data, value, patch }: DataProps) => {
  const app = useApp()
  const builtIn = data.builtIn ?? []
  const kept = Object.entries((patch['assets'] ?? {}) as Record<string, { kind?: string }>)
    .filter(([, asset]) => asset.kind === 'audio' || asset.kind === 'table')
    .map(([id]) => id)
  const names = new Set([...builtIn, ...kept, String(value)])
  return (
    <Choice
      label={`${data.name} of ${module.id}`}
      value={String(value)}
      options={[...names].map((name) => ({ value: name }))}
      onChange={(name) => {
        setData(app, module.id, data.name, name)
      }}
    />
  )
}

/** Loaded with the first sampler that is looked at. */
const ZoneList = lazy(() => import('./zone-list.tsx').then(({ ZoneList: List }) => ({ default: List })))

const Zones = ({ module, data, value }: DataProps) => {
  const app = useApp()
  return (
    <Suspense fallback={<p className="m-0 py-1 text-12 text-ink2">Zones …</p>}>
      <ZoneList
        module={module}
        data={data}
        value={value}
        onChange={(zones) => {
          setData(app, module.id, data.name, zones)
        }}
      />
    </Suspense>
  )
}

/** Editors by the names that kinds of data and descriptions give them. */
const EDITORS: ReadonlyMap<string, ComponentType<DataProps>> = new Map<string, ComponentType<DataProps>>([
  ['formula', FormulaText],
  ['switches', Switches],
  ['table', TableChoice],
  ['zones', Zones],
  ['list', ListText],
])

interface FieldsProps {
  readonly module: PatchModule
  readonly description: ModuleDescription
  readonly patch: Patch
}

/** What a module keeps besides its parameters: formulas, sequences, curves, tables. */
export const DataFields = ({ module, description, patch }: FieldsProps) => (
  <div className="border-b border-rule px-3 py-2">
    {description.data!.map((data) => {
      const value = own(module.data, data.name) ?? data.default ?? []
      const Editor = EDITORS.get(data.editor ?? dataKindOf(data).editor) ?? ListText
      // A formula's text begins anew when it is changed from elsewhere.
      const key = data.kind === 'text' ? `${data.name} ${String(value)}` : data.name
      return (
        <div key={key} className="mb-1.5">
          <div className="text-12 text-ink2">{data.name}</div>
          <Editor module={module} data={data} value={value} patch={patch} />
        </div>
      )
    })}
  </div>
)
