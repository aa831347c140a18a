import {
  dataKindOf,
  own,
  type DataDescription,
  errorText,
  type ModuleDescription,
  type Patch,
  type PatchModule,
  parseFormula,
} from '@ypsilon/core'
import { type ComponentType, useState } from 'react'
import { toast } from 'sonner'
import { useDocument } from '../store/document.ts'

const setData = (id: string, name: string, value: unknown): void => {
  useDocument.getState().change(`Set ${name}`, (draft) => {
    const module = draft.modules.find((item) => item.id === id)
    if (module) module.data = { ...module.data, [name]: value }
  })
}

interface Props {
  readonly module: PatchModule
  readonly data: DataDescription
  readonly value: unknown
}

/** A formula's text with its first error under it, or ready. */
const FormulaText = ({ module, data, value }: Props) => {
  const [text, setText] = useState(String(value))
  const error = parseFormula(text, 'module').errors[0]
  return (
    <div>
      <textarea
        className="mono h-24 w-full resize-y rounded-[3px] border border-rule bg-transparent p-1.5 text-[12.5px]"
        aria-label={`${data.name} of ${module.id}`}
        spellCheck={false}
        value={text}
        onChange={(event) => {
          setText(event.target.value)
        }}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) event.currentTarget.blur()
        }}
        onBlur={() => {
          if (text !== value && !error) setData(module.id, data.name, text)
        }}
      />
      <p className={error ? 'text-warn' : 'text-ink2'}>
        {error ? errorText(error) : 'Taken over when you leave the field or press Ctrl+Enter.'}
      </p>
    </div>
  )
}

/** On and off for every place of a list. */
const Switches = ({ module, data, value }: Props) => {
  const length =
    data.name === 'scale'
      ? 12
      : Math.min(data.length ?? 16, Number(module.params?.['length'] ?? module.params?.['count'] ?? 8))
  const rest = data.name === 'on' || data.name === 'scale'
  const list = Array.from({ length }, (_, i) => {
    const item: unknown = (value as unknown[])[i]
    return item === undefined ? rest : item === true || item === 1
  })
  return (
    <div className="flex flex-wrap gap-[3px]" role="group" aria-label={data.name}>
      {list.map((on, index) => (
        <button
          key={index}
          type="button"
          aria-pressed={on}
          aria-label={`${data.name} ${index + 1}`}
          className={`h-5 w-5 rounded-[2px] border border-rule p-0 text-[10px] ${on ? '' : 'text-ink2'}`}
          style={on ? { background: 'var(--accent)', color: 'var(--card)' } : { background: 'transparent' }}
          onClick={() => {
            setData(
              module.id,
              data.name,
              list.map((item, i) => (i === index ? !item : item)),
            )
          }}
        >
          {index + 1}
        </button>
      ))}
    </div>
  )
}

/** A list of numbers, or anything larger as it stands in the file. */
const ListText = ({ module, data, value }: Props) => {
  const plain = data.kind === 'numbers'
  const shown = plain ? (value as number[]).join(' ') : JSON.stringify(value)
  const [text, setText] = useState<string | undefined>(undefined)
  const commit = (): void => {
    if (text === undefined || text === shown) {
      setText(undefined)
      return
    }
    try {
      const next: unknown = plain
        ? text
            .split(/[\s;]+/)
            .filter(Boolean)
            .map((word) => {
              const number = Number(word.replace(',', '.'))
              if (!Number.isFinite(number)) throw new Error(`"${word}" is not a number`)
              return number
            })
        : JSON.parse(text)
      setData(module.id, data.name, next)
      setText(undefined)
    } catch (error) {
      toast.error(
        `${data.name}: ${plain ? (error as Error).message : 'this is not JSON; points are [{"t": 0, "v": 1, "curve": 0}, …]'}`,
      )
    }
  }
  return (
    <input
      className="mono w-full border-0 border-b border-rule bg-transparent p-0 text-[12.5px]"
      aria-label={`${data.name} of ${module.id}`}
      value={text ?? shown}
      placeholder={plain ? 'numbers, apart by spaces' : ''}
      onChange={(event) => {
        setText(event.target.value)
      }}
      onBlur={commit}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Enter') event.currentTarget.blur()
        if (event.key === 'Escape') setText(undefined)
      }}
    />
  )
}

const TableChoice = ({ module, data, value, patch }: Props & { patch: Patch }) => {
  const builtIn = data.builtIn ?? []
  const own = Object.entries((patch['assets'] ?? {}) as Record<string, { kind?: string }>)
    .filter(([, asset]) => asset.kind === 'audio' || asset.kind === 'table')
    .map(([id]) => id)
  return (
    <select
      className="mono border-0 bg-transparent p-0"
      aria-label={`${data.name} of ${module.id}`}
      value={String(value)}
      onChange={(event) => {
        setData(module.id, data.name, event.target.value)
      }}
    >
      {[
        ...builtIn,
        ...own,
        ...(builtIn.includes(String(value)) || own.includes(String(value)) ? [] : [String(value)]),
      ].map((name) => (
        <option key={name} value={name}>
          {name}
        </option>
      ))}
    </select>
  )
}

/** Editors by the names that kinds of data and descriptions give them. */
const EDITORS: ReadonlyMap<string, ComponentType<Props & { readonly patch: Patch }>> = new Map<
  string,
  ComponentType<Props & { readonly patch: Patch }>
>([
  ['formula', FormulaText],
  ['switches', Switches],
  ['table', TableChoice],
  ['list', ListText],
])

/** What a module keeps besides its parameters: formulas, sequences, curves, tables. */
export const DataFields = ({
  module,
  description,
  patch,
}: {
  module: PatchModule
  description: ModuleDescription
  patch: Patch
}) => (
  <div className="border-b border-rule px-3 py-2">
    {description.data!.map((data) => {
      const value = own(module.data, data.name) ?? data.default ?? []
      const props = { module, data, value }
      const Editor = EDITORS.get(data.editor ?? dataKindOf(data).editor) ?? ListText
      return (
        <div key={`${module.id}.${data.name}.${JSON.stringify(value)}`} className="mb-1.5">
          <div className="text-[12px] text-ink2">{data.name}</div>
          <Editor {...props} patch={patch} />
        </div>
      )
    })}
  </div>
)
