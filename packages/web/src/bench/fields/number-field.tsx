import {
  fieldFault,
  isFormula,
  type NumberParam,
  own,
  parseNumber,
  printNumber,
  toScale,
} from '@ypsilon/core'
import { type KeyboardEvent, memo, type PointerEvent, useEffect, useRef, useState } from 'react'
import { Tip } from '../../ui/tooltip.tsx'
import { FieldDrag, nudged, typedText } from './number-steps.ts'
import { type FieldEdit, type FieldProps, newGesture } from './types.ts'
import { Typing } from './typing.tsx'

interface NumberProps extends Omit<FieldProps, 'param' | 'value'> {
  readonly param: NumberParam
  readonly value: number
}

const STEPS: Readonly<Record<string, number>> = {
  ArrowRight: 1,
  ArrowUp: 1,
  ArrowLeft: -1,
  ArrowDown: -1,
  PageUp: 10,
  PageDown: -10,
}
/** Presses of a key within this are one step. */
const NUDGE_MS = 700

/** Drags a number sideways; Escape gives the drag up and restores what was. */
const useDrag = (param: NumberParam, value: number, edit: FieldEdit, onDragged: (() => void) | undefined) => {
  const drag = useRef<FieldDrag | undefined>(undefined)
  const [isDragging, setDragging] = useState(false)
  const end = (): void => {
    if (drag.current?.hasMoved) onDragged?.()
    drag.current = undefined
    setDragging(false)
  }
  useEffect(() => {
    if (!isDragging) return undefined
    const giveUp = (event: globalThis.KeyboardEvent): void => {
      if (event.key !== 'Escape' || !drag.current) return
      event.preventDefault()
      event.stopPropagation()
      edit.giveUp(drag.current.gesture)
      drag.current = undefined
      setDragging(false)
    }
    window.addEventListener('keydown', giveUp, true)
    return () => {
      window.removeEventListener('keydown', giveUp, true)
    }
  }, [isDragging, edit])
  return {
    onPointerDown: (event: PointerEvent): void => {
      if (event.button !== 0) return
      // Shift finely drags the field; it never begins a box over cards.
      event.stopPropagation()
      event.currentTarget.setPointerCapture(event.pointerId)
      drag.current = new FieldDrag(param, value, event.clientX, newGesture('drag'))
      setDragging(true)
    },
    onPointerMove: (event: PointerEvent): void => {
      const next = drag.current?.move(event)
      if (next !== undefined) edit.set(next, drag.current!.gesture)
    },
    onPointerUp: end,
    onPointerCancel: end,
  }
}

/** What was typed into a number: a value, a relative one, or a formula. A sentence refuses it. */
const taken = ({ param, value, tempo, edit }: NumberProps, text: string): string | undefined => {
  if (isFormula(text)) {
    const fault = fieldFault(text)
    if (fault === undefined) edit.set(text.trim(), newGesture('type'))
    return fault
  }
  const result = parseNumber(param, text, { tempo, now: value })
  if (!result.ok) return result.message
  edit.set(result.value, newGesture('type'))
  return undefined
}

/** Name and value, and under them the scale with all that stands on it. */
const Scale = ({ param, value, band, isLive, moved }: NumberProps) => (
  <>
    <div className="line1">
      <span>{param.label}</span>
      <span className="mono">{printNumber(param, value)}</span>
    </div>
    <div className="scale" />
    {band && <div className="band" style={{ left: `${band[0] * 100}%`, right: `${(1 - band[1]) * 100}%` }} />}
    <div className="notch" style={{ left: `${toScale(param, value) * 100}%` }} />
    {moved && <div className="moved" data-moved="" ref={moved} />}
    {isLive && <div className="now" data-live="" />}
  </>
)

/** A number: name, value with unit, hairline scale with notch, reach of modulation, tick for the value now. */
export const NumberField = memo((props: NumberProps) => {
  const { param, value, edit, onDragged } = props
  const [typing, setTyping] = useState<string | undefined>(undefined)
  const field = useRef<HTMLDivElement>(null)
  const drag = useDrag(param, value, edit, onDragged)
  const nudge = (steps: number, isFine: boolean): void => {
    edit.set(nudged(param, value, steps, isFine), `nudge-${param.name}-${Math.floor(Date.now() / NUDGE_MS)}`)
  }
  return (
    <div className="field-box nodrag nopan nowheel">
      <Tip words={`${param.label} ${printNumber(param, value)}. ${param.help ?? ''}`} keys="Enter">
        <div
          ref={field}
          className="field"
          role="slider"
          tabIndex={0}
          aria-label={param.label}
          aria-valuemin={param.min}
          aria-valuemax={param.max}
          aria-valuenow={value}
          aria-valuetext={printNumber(param, value)}
          data-param={param.name}
          {...drag}
          onDoubleClick={(event) => {
            event.stopPropagation()
            setTyping(typedText(param, value))
          }}
          onKeyDown={(event) => {
            fieldKey(event, {
              nudge,
              type: (text) => {
                setTyping(text ?? typedText(param, value))
              },
              reset: () => {
                edit.set(param.default, newGesture('reset'))
              },
            })
          }}
          onWheel={(event) => {
            if (document.activeElement === event.currentTarget)
              nudge(event.deltaY < 0 ? 1 : -1, event.shiftKey)
          }}
        >
          <Scale {...props} />
        </div>
      </Tip>
      {typing !== undefined && (
        <Typing
          label={`${param.label}, type a value`}
          text={typing}
          onCommit={(text) => taken(props, text)}
          onDone={(byKeys) => {
            setTyping(undefined)
            if (byKeys) field.current?.focus()
          }}
        />
      )}
    </div>
  )
})

interface FieldActs {
  readonly nudge: (steps: number, isFine: boolean) => void
  /** Begins typing, with a first character or with what stands there. */
  readonly type: (text?: string) => void
  readonly reset: () => void
}

/** Keys of a focused number: arrows move it, digits and Enter type, Backspace resets. */
const fieldKey = (event: KeyboardEvent, { nudge, type, reset }: FieldActs): void => {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const steps = own(STEPS, event.key)
  if (steps !== undefined) nudge(steps, event.shiftKey)
  else if (event.key === 'Enter') type()
  else if (/^[\d.,+\-=×*]$/.test(event.key)) type(event.key)
  else if (event.key === 'Backspace' || event.key === 'Delete' || event.key === 'Home') reset()
  else return
  event.preventDefault()
  event.stopPropagation()
}
