/** One row of a sequence: a cell a step. */
import { type NumberParam, own, parseNumber, printNumber } from '@ypsilon/core'
import { restAt, type StepRow, stepsOf } from '@ypsilon/core/describe/rows.ts'
import { type KeyboardEvent, memo, useRef, useState } from 'react'
import { useApp, useDocument } from '../../app/context.ts'
import { TextField } from '../../ui/text-field.tsx'
import { useNudge } from '../fields/use-nudge.ts'
import { barOf, drawSteps, type Lane, listOf, nudgedStep, setStep } from './step-hand.ts'

/** Typed values go as far as the module takes them, drawn ones as far as the row shows. */
const typedParam = ({ param, data }: StepRow): NumberParam => ({
  ...param,
  min: data.min ?? param.min,
  max: data.max ?? param.max,
})

const words = (row: StepRow, value: number): string => {
  if (row.isSwitch) return value !== 0 ? 'on' : 'off'
  return printNumber(row.param, value)
}

interface CellProps {
  readonly row: StepRow
  readonly entry: string
  readonly index: number
  readonly value: number
  readonly isOff: boolean
  readonly isActive: boolean
  readonly isTyping: boolean
  readonly hasText: boolean
  readonly onTyped: (text: string) => string | undefined
  readonly onDone: () => void
}

const Cell = memo(
  ({ row, entry, index, value, isOff, isActive, isTyping, hasText, onTyped, onDone }: CellProps) => {
    const { from, size } = barOf(row, value),
      text = words(row, value)
    return (
      <span
        role="gridcell"
        tabIndex={isActive ? 0 : -1}
        className="step-cell"
        data-step={`${row.data.name} ${index}`}
        data-off={isOff}
        aria-colindex={index + 1}
        aria-label={`${row.label}, ${entry} ${index + 1}: ${text}${isOff ? ', not played' : ''}`}
      >
        {row.isSwitch ? (
          <span className="step-switch" data-on={value !== 0} aria-hidden="true" />
        ) : (
          <span
            className="step-bar"
            aria-hidden="true"
            style={{ bottom: `${100 * from}%`, height: `max(2px, ${100 * size}%)` }}
          />
        )}
        {isTyping ? (
          <span className="step-typing">
            <TextField
              autoFocus
              className="mono"
              label={`${row.label} of ${entry} ${index + 1}`}
              value={text.replace('−', '-')}
              onCommit={onTyped}
              onDone={onDone}
            />
          </span>
        ) : (
          hasText && <span className="step-text mono">{text.replace(/ .*$/, '')}</span>
        )}
      </span>
    )
  },
)

export interface StepLaneProps extends Omit<Lane, 'app'> {
  /** Steps that play. */
  readonly length: number
  /** The row's own, where it may have one; 0: as long as the sequence. */
  readonly ownLength?: number
  readonly isTall: boolean
}

/** Where the keyboard is in a row, and what it does there. */
const useLaneKeys = (lane: Lane, steps: readonly number[]) => {
  const { row, count } = lane
  const [active, setActive] = useState(0),
    [typing, setTyping] = useState(-1),
    track = useRef<HTMLSpanElement>(null),
    nudge = useNudge(lane.app)
  const goTo = (index: number): void => {
    const next = Math.min(count - 1, Math.max(0, index))
    setActive(next)
    track.current?.querySelector<HTMLElement>(`[aria-colindex="${next + 1}"]`)?.focus()
  }
  const change = (value: number): void => {
    setStep(lane, active, value, nudge())
  }
  const moves: Readonly<Record<string, () => void>> = {
    ArrowRight: () => {
      goTo(active + 1)
    },
    ArrowLeft: () => {
      goTo(active - 1)
    },
    Home: () => {
      goTo(0)
    },
    End: () => {
      goTo(count - 1)
    },
    Enter: () => {
      if (row.isSwitch) change(1 - steps[active]!)
      else setTyping(active)
    },
    Delete: () => {
      change(restAt(row, active))
    },
    Backspace: () => {
      change(restAt(row, active))
    },
  }
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.target instanceof HTMLInputElement) return
    const next = nudgedStep(row, steps[active]!, event)
    if (next !== undefined) change(next)
    else if (own(moves, event.key)) own(moves, event.key)!()
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  const done = (): void => {
    setTyping(-1)
    goTo(active)
  }
  return { active, setActive, typing, setTyping, track, onKeyDown, done }
}

export const StepLane = (props: StepLaneProps) => {
  const { row, module, name, entry, count, length, isTall } = props
  const app = useApp(),
    tempo = useDocument(({ patch }) => patch.tempo ?? 120)
  const lane: Lane = { app, row, module, name, entry, count }
  const steps = stepsOf(row, listOf(lane))
  const { active, setActive, typing, setTyping, track, onKeyDown, done } = useLaneKeys(lane, steps)
  const typed = (text: string): string | undefined => {
    const read = parseNumber(typedParam(row), text, { tempo, now: steps[typing]! })
    if (!read.ok) return read.message
    setStep(lane, typing, read.value)
    return undefined
  }
  const indexOf = (target: EventTarget): number =>
    Number((target as Element).closest('[aria-colindex]')?.getAttribute('aria-colindex') ?? active + 1) - 1
  return (
    <div className="step-lane" role="row" aria-label={row.label} data-tall={isTall} data-lane={row.data.name}>
      <span className="step-label" role="rowheader">
        {row.label}
        {!row.isSwitch && row.param.unit !== '' && <span className="mono text-ink2"> {row.param.unit}</span>}
      </span>
      {props.ownLength !== undefined && (
        <span className="step-own mono">{props.ownLength > 0 ? props.ownLength : ''}</span>
      )}
      <span
        ref={track}
        className="step-track nokey"
        style={{ '--zero': `${100 * barOf(row, row.param.max).from}%` } as object}
        onPointerDown={(event) => {
          if (event.button !== 0 || event.target instanceof HTMLInputElement) return
          setActive(indexOf(event.target))
          drawSteps(lane, event)
        }}
        onDoubleClick={(event) => {
          if (!row.isSwitch) setTyping(indexOf(event.target))
        }}
        onFocus={(event) => {
          setActive(indexOf(event.target))
        }}
        onKeyDown={onKeyDown}
      >
        {steps.slice(0, count).map((value, index) => (
          <Cell
            key={index}
            row={row}
            entry={entry}
            index={index}
            value={value}
            isOff={index >= length}
            isActive={index === active}
            isTyping={index === typing}
            hasText={isTall && count <= 16}
            onTyped={typed}
            onDone={done}
          />
        ))}
      </span>
    </div>
  )
}
