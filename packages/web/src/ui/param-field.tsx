import {
  fieldFault,
  fromScale,
  isFormula,
  isSignalParam,
  kindOf,
  type NumberParam,
  type ParamDescription,
  type ParamValue,
  parseNumber,
  printNumber,
  toScale,
} from '@ypsilon/core'
import { type ComponentType, memo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { toast } from 'sonner'

type Moved = (element: HTMLElement | null) => (() => void) | undefined

/** A number field: name, value with unit, hairline scale with notch, reach of modulation, tick for the value now. */
interface NumberProps {
  readonly param: NumberParam
  readonly value: number
  readonly tempo: number
  /** Reach of modulation as scale positions. */
  readonly band?: readonly [number, number] | undefined
  /** Signal key of the live value, drawn by the frame loop. */
  readonly live?: string | undefined
  /** `ref` of the mark that shows where the value was moved to, while it is not what is set. */
  readonly moved?: Moved | undefined
  onChange(value: ParamValue, gesture: string): void
}

const FULL_DRAG = 200
const FINE = 0.1

/** Musical values a drag with Alt snaps to: whole units, semitones, decades and their halves. */
const snapped = (param: NumberParam, value: number): number => {
  if (param.log) {
    const decade = 10 ** Math.floor(Math.log10(value))
    return [1, 2, 5, 10]
      .map((n) => n * decade)
      .reduce((best, n) => (Math.abs(Math.log(n / value)) < Math.abs(Math.log(best / value)) ? n : best))
  }
  const unit =
    param.unit === 'ct'
      ? 10
      : param.unit === '%'
        ? 0.1
        : param.unit === 's'
          ? 0.05
          : param.max - param.min > 4
            ? 1
            : 0.1
  return Math.round(value / unit) * unit
}

const clamp = (param: NumberParam, value: number): number => Math.min(param.max, Math.max(param.min, value))
let gestures = 0

export const NumberField = memo(({ param, value, tempo, band, live, moved, onChange }: NumberProps) => {
  const drag = useRef<{ x: number; at: number; gesture: string; moved: boolean } | undefined>(undefined)
  const [typing, setTyping] = useState<string | undefined>(undefined)
  const field = useRef<HTMLDivElement>(null)
  const position = toScale(param, value)

  const nudge = (steps: number, fine: boolean): void => {
    const gesture = `nudge-${param.name}-${Math.floor(Date.now() / 700)}`
    if (param.whole) onChange(clamp(param, value + Math.sign(steps)), gesture)
    else if (param.unit === 'st' || param.unit === 'oct')
      onChange(clamp(param, Math.round((value + steps * (fine ? 0.01 : 1)) * 100) / 100), gesture)
    else onChange(clamp(param, fromScale(param, position + steps * (fine ? 0.001 : 0.01))), gesture)
  }
  const down = (event: PointerEvent): void => {
    if (event.button !== 0 || typing !== undefined) return
    event.currentTarget.setPointerCapture(event.pointerId)
    gestures += 1
    drag.current = { x: event.clientX, at: position, gesture: `drag-${gestures}`, moved: false }
  }
  const move = (event: PointerEvent): void => {
    const d = drag.current
    if (!d) return
    const distance = event.clientX - d.x
    if (!d.moved && Math.abs(distance) < 3) return
    d.moved = true
    d.at += (distance / FULL_DRAG) * (event.shiftKey ? FINE : 1)
    d.x = event.clientX
    const next = clamp(param, fromScale(param, d.at))
    onChange(event.altKey ? clamp(param, snapped(param, next)) : next, d.gesture)
  }
  const key = (event: KeyboardEvent): void => {
    if (typing !== undefined) return
    const steps = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[
      event.key
    ]
    if (steps !== undefined && !event.ctrlKey && !event.metaKey) {
      event.preventDefault()
      event.stopPropagation()
      nudge(steps, event.shiftKey)
    }
    if (event.key === 'Enter') {
      event.preventDefault()
      event.stopPropagation()
      setTyping(printNumber(param, value).replace('−', '-'))
    }
    if (event.key === 'Delete' || event.key === 'Home') {
      event.preventDefault()
      event.stopPropagation()
      onChange(param.default, `reset-${param.name}`)
    }
  }
  const commit = (text: string): void => {
    if (isFormula(text)) {
      const fault = fieldFault(text)
      if (fault) {
        toast.error(`${param.label}: ${fault}`)
        return
      }
      setTyping(undefined)
      onChange(text.trim(), `type-${Date.now()}`)
      return
    }
    const result = parseNumber(param, text, tempo)
    if (!result.ok) {
      toast.error(`${param.label}: ${result.message}`)
      return
    }
    onChange(result.value, `type-${Date.now()}`)
    setTyping(undefined)
    field.current?.focus()
  }
  return (
    <div
      ref={field}
      className="field nodrag nopan nowheel"
      role="slider"
      tabIndex={0}
      aria-label={param.label}
      aria-valuemin={param.min}
      aria-valuemax={param.max}
      aria-valuenow={value}
      aria-valuetext={printNumber(param, value)}
      data-param={param.name}
      title={param.help}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={() => {
        drag.current = undefined
      }}
      onPointerCancel={() => {
        drag.current = undefined
      }}
      onDoubleClick={(event) => {
        event.stopPropagation()
        setTyping(printNumber(param, value).replace('−', '-'))
      }}
      onKeyDown={key}
      onWheel={(event) => {
        if (document.activeElement === event.currentTarget) nudge(event.deltaY < 0 ? 1 : -1, event.shiftKey)
      }}
    >
      <div className="line1">
        <span>{param.label}</span>
        <span className="mono">{printNumber(param, value)}</span>
      </div>
      <div className="scale" />
      {band && (
        <div className="band" style={{ left: `${band[0] * 100}%`, right: `${(1 - band[1]) * 100}%` }} />
      )}
      <div className="notch" style={{ left: `${position * 100}%` }} />
      {moved && <div className="moved" data-moved="" ref={moved} />}
      {live !== undefined && <div className="now" data-live={live} />}
      {typing !== undefined && (
        <input
          autoFocus
          aria-label={`${param.label}, type a value`}
          className="mono"
          value={typing}
          onChange={(event) => {
            setTyping(event.target.value)
          }}
          onFocus={(event) => {
            event.target.select()
          }}
          onBlur={() => {
            setTyping(undefined)
          }}
          onPointerDown={(event) => {
            event.stopPropagation()
          }}
          onKeyDown={(event) => {
            event.stopPropagation()
            if (event.key === 'Enter') commit(typing)
            if (event.key === 'Escape') {
              setTyping(undefined)
              field.current?.focus()
            }
          }}
        />
      )}
    </div>
  )
})

interface FormulaProps {
  readonly param: ParamDescription
  readonly value: string
  onChange(value: ParamValue, gesture: string): void
}

/** A field that holds a formula: its text, to be typed over; emptied, the field goes back to its default. */
const FormulaField = ({ param, value, onChange }: FormulaProps) => {
  const [typing, setTyping] = useState<string | undefined>(undefined)
  const commit = (text: string): void => {
    const next = text.trim()
    if (next === '') {
      onChange('default' in param ? param.default : 0, `type-${Date.now()}`)
      return
    }
    const plain = param.kind === 'number' && !isFormula(next) ? parseNumber(param, next, 120) : undefined
    const fault = plain
      ? plain.ok
        ? undefined
        : plain.message
      : fieldFault(isFormula(next) ? next : `= ${next}`)
    if (fault) {
      toast.error(`${param.label}: ${fault}`)
      return
    }
    setTyping(undefined)
    onChange(plain?.ok ? plain.value : isFormula(next) ? next : `= ${next}`, `type-${Date.now()}`)
  }
  return (
    <label
      className="nodrag nopan nowheel flex min-h-[27px] items-center justify-between gap-2"
      data-formula={param.name}
    >
      <span>{param.label}</span>
      <input
        className="mono min-w-0 flex-1 border-0 bg-transparent p-0 text-right text-accent"
        aria-label={`${param.label}, formula`}
        data-param={param.name}
        value={typing ?? value}
        title={value}
        onFocus={(event) => {
          setTyping(value)
          event.target.select()
        }}
        onChange={(event) => {
          setTyping(event.target.value)
        }}
        onBlur={() => {
          setTyping(undefined)
        }}
        onPointerDown={(event) => {
          event.stopPropagation()
        }}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter') commit(event.currentTarget.value)
          if (event.key === 'Escape') {
            setTyping(undefined)
            event.currentTarget.blur()
          }
        }}
      />
    </label>
  )
}

interface FieldProps {
  readonly param: ParamDescription
  readonly value: ParamValue
  readonly tempo: number
  readonly band?: readonly [number, number] | undefined
  readonly live?: string | undefined
  /** `ref` of the mark that shows where the value was moved to, while it is not what is set. */
  readonly moved?: Moved | undefined
  onChange(value: ParamValue, gesture: string): void
}

/** The word that is heard while another is set. */
const MovedWord = ({ moved }: { moved: Moved }) => (
  <span className="mono moved-word ml-auto" data-moved="" ref={moved} />
)

const NumberEditor = ({ param, value, tempo, band, live, moved, onChange }: FieldProps) => (
  <NumberField
    param={param as NumberParam}
    value={Number(value)}
    tempo={tempo}
    band={band}
    live={live}
    moved={moved}
    onChange={onChange}
  />
)

const SwitchEditor = ({ param, value, moved, onChange }: FieldProps) => (
  <button
    type="button"
    role="switch"
    aria-checked={value === true}
    aria-label={param.label}
    data-param={param.name}
    className="nodrag flex h-[27px] w-full items-center justify-between border-0 bg-transparent p-0 text-left"
    onClick={() => {
      onChange(value !== true, `switch-${Date.now()}`)
    }}
  >
    <span>{param.label}</span>
    {moved && <MovedWord moved={moved} />}
    <span className="mono">{value === true ? 'on' : 'off'}</span>
  </button>
)

const ChoiceEditor = ({ param, value, moved, onChange }: FieldProps) => (
  <label className="nodrag flex h-[27px] items-center justify-between gap-2">
    <span>{param.label}</span>
    {moved && <MovedWord moved={moved} />}
    <select
      aria-label={param.label}
      data-param={param.name}
      className="mono max-w-[104px] border-0 bg-transparent p-0 text-right"
      value={String(value)}
      onChange={(event) => {
        onChange(event.target.value, `choose-${Date.now()}`)
      }}
    >
      {('choices' in param ? param.choices : []).map((word) => (
        <option key={word} value={word}>
          {word}
        </option>
      ))}
    </select>
  </label>
)

const TextEditor = ({ param, value, onChange }: FieldProps) => (
  <label className="nodrag flex h-[27px] items-center justify-between gap-2">
    <span>{param.label}</span>
    <input
      aria-label={param.label}
      data-param={param.name}
      className="mono w-24 border-0 border-b border-rule bg-transparent p-0 text-right"
      defaultValue={String(value)}
      key={String(value)}
      onBlur={(event) => {
        if (event.target.value.trim() && event.target.value !== value)
          onChange(event.target.value.trim(), `text-${Date.now()}`)
      }}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Enter') event.currentTarget.blur()
      }}
    />
  </label>
)

/** Fields by the names that kinds of parameters give them. */
const EDITORS: ReadonlyMap<string, ComponentType<FieldProps>> = new Map([
  ['number', NumberEditor],
  ['switch', SwitchEditor],
  ['choice', ChoiceEditor],
  ['text', TextEditor],
])

/** Any parameter, by the field its kind names; what holds a formula shows its text. */
export const ParamField = memo((props: FieldProps) => {
  const { param, value, onChange } = props
  if (isFormula(value) && isSignalParam(param))
    return <FormulaField param={param} value={value} onChange={onChange} />
  const Editor = EDITORS.get(kindOf(param).editor) ?? TextEditor
  return <Editor {...props} />
})
