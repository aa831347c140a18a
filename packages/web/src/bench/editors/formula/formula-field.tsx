/** A formula that is typed, with its faults in place and what is wrong below. */
import type { EditorView } from '@codemirror/view'
import { errorText, parseFormula } from '@ypsilon/core'
import type { FormulaUse } from '@ypsilon/core/formula/expression.ts'
import { type RefObject, useEffect, useRef, useState } from 'react'
import { useApp } from '../../../app/context.ts'
import { formulaLanguage, type FormulaName } from './formula-language.ts'
import { openFormulaView, putText } from './formula-view.ts'

interface FormulaFieldProps {
  readonly label: string
  readonly value: string
  readonly use: FormulaUse
  /** What may be named, besides the language's own words. */
  readonly names: readonly FormulaName[]
  readonly onCommit: (text: string) => void
  /** With every letter. */
  readonly onText?: (text: string) => void
}

/** The editor on the page, as long as the field is. */
const useView = (
  props: FormulaFieldProps,
  place: RefObject<HTMLDivElement | null>,
  onText: (text: string) => void,
): RefObject<EditorView | undefined> => {
  const app = useApp()
  const view = useRef<EditorView>(undefined),
    now = useRef({ props, onText })
  const { label, use, value } = props
  useEffect(() => {
    now.current = { props, onText }
  })
  useEffect(() => {
    const put = (text: string): void => {
      if (view.current) putText(view.current, text)
    }
    const leave = (text: string): void => {
      const { value: before, onCommit } = now.current.props
      if (text === before) return
      const fault = parseFormula(text, use).errors[0]
      if (!fault) {
        onCommit(text)
        return
      }
      put(before)
      app.notifier.error(`The formula was not taken: ${errorText(fault)}`, {
        description: 'What played before stands in its place again.',
        action: {
          label: 'Go on typing',
          onClick: () => {
            put(text)
            view.current?.focus()
          },
        },
      })
    }
    view.current = openFormulaView(place.current!, {
      label,
      value: now.current.props.value,
      language: formulaLanguage(use, () => now.current.props.names),
      onText: (text) => {
        now.current.onText(text)
      },
      onLeave: leave,
      onGiveUp: () => {
        put(now.current.props.value)
        app.chart.focus()
      },
    })
    return () => {
      view.current?.destroy()
      view.current = undefined
    }
  }, [app, label, use, place])
  useEffect(() => {
    // Changed from elsewhere: by undo, or where else it is typed.
    if (view.current && !view.current.hasFocus) putText(view.current, value)
  }, [value])
  return view
}

export const FormulaField = (props: FormulaFieldProps) => {
  const { use, value, onText } = props
  const place = useRef<HTMLDivElement>(null)
  const [error, setError] = useState(() => parseFormula(value, use).errors[0])
  useView(props, place, (text) => {
    setError(parseFormula(text, use).errors[0])
    onText?.(text)
  })
  return (
    <div className="formula-field">
      <div
        ref={place}
        className="nokey"
        onKeyDown={(event) => {
          event.stopPropagation()
        }}
      />
      <p
        className={`m-0 mt-1 text-12 ${error ? 'text-warn' : 'text-ink2'}`}
        role={error ? 'alert' : undefined}
      >
        {error ? errorText(error) : 'Taken with Ctrl+Enter, or when you leave it.'}
      </p>
    </div>
  )
}
