/** Lists in the dock, sequences and partials: rows that are drawn with the mouse, exact values typed, whole rows changed. */
import { type EditorDescription, labelOf, own, paramAt, setParam } from '@ypsilon/core'
import {
  changedRow,
  restAt,
  ROW_CHANGES,
  type RowChange,
  stepRow,
  stepsOf,
  type StepRow,
} from '@ypsilon/core/describe/rows.ts'
import { useMemo, useState } from 'react'
import { useApp, useDocument } from '../../app/context.ts'
import { Choice } from '../../ui/select.tsx'
import { kindColour } from '../../ui/icons.tsx'
import { setData } from '../data-text.ts'
import { HowTo } from './how-to.tsx'
import { NumberText } from './number-text.tsx'
import { StepLane } from './step-lane.tsx'
import type { EditorProps } from './types.ts'

/** So many steps are shown at least. */
const LEAST_SHOWN = 8

const useRows = ({ module: { params }, description }: EditorProps): readonly StepRow[] =>
  // Only with what they count in are they others, not with every step that is drawn.
  useMemo(
    () =>
      (description.data ?? []).map((data) => {
        // What a row counts in may be a parameter: `rangeA` for row a.
        const name = `range${data.name.toUpperCase()}`
        const known = description.params.find((param) => param.name === name)
        return stepRow(data, data.label ?? data.name, known && String(own(params, name) ?? known.default))
      }),
    [params, description],
  )

/** A row of values that is not at rest has room to be read; what nobody uses takes little. */
const isUsed = (row: StepRow, value: unknown): boolean =>
  !row.isSwitch && row.param.unit !== '' && stepsOf(row, value).some((step, n) => step !== restAt(row, n))

type Drawn = Extract<EditorDescription, { kind: 'rows' }>

interface HeadProps extends EditorProps {
  readonly drawn: Drawn
  readonly rows: readonly StepRow[]
  readonly length: number
}

const Head = ({ module, description, drawn, rows, length }: HeadProps) => {
  const app = useApp(),
    { document } = app
  const [chosen, setChosen] = useState(rows[0]!.data.name)
  const row = rows.find(({ data }) => data.name === chosen) ?? rows[0]!
  const known = description.params.find(({ name }) => name === drawn.length)
  const param = known && paramAt(known, module.params)
  return (
    <div className="editor-head">
      {param?.kind === 'number' && (
        <NumberText
          param={param}
          value={length}
          onSet={(value) => {
            document
              .getState()
              .change(`Set ${param.label.toLowerCase()} of ${description.label.toLowerCase()}`, (draft) => {
                setParam(draft, module.id, drawn.length, value)
              })
          }}
        />
      )}
      <span className="text-ink2">Row</span>
      <Choice
        label="Row"
        value={row.data.name}
        options={rows.map(({ data, label }) => ({ value: data.name, label }))}
        onPointed={app.chart.focus}
        onChange={setChosen}
      />
      <Choice
        label="Change the row"
        value=""
        options={[{ value: '', label: 'change …' }, ...ROW_CHANGES.map((value) => ({ value }))]}
        onPointed={app.chart.focus}
        onChange={(change) => {
          if (!change) return
          const value = own(module.data, row.data.name) ?? row.data.default
          const next = changedRow(row, value, length, change as RowChange, Math.random)
          setData(app, module.id, row.data.name, next, { words: `Row ${row.label}: ${change}` })
        }}
      />
      <HowTo words="Draw with the mouse over several at once; Alt lets go of whole semitones and numbers. Double-click or Enter types a value: 7 st, 3/2, 50 %. Arrows go along and change the value, Shift finely; Delete goes back to rest." />
    </div>
  )
}

export const RowsEditor = (props: EditorProps) => {
  const { module, description } = props,
    drawn = description.editor as Drawn
  const name = useDocument(({ patch }) => labelOf(patch, module.id))
  const rows = useRows(props)
  const known = description.params.find((param) => param.name === drawn.length),
    length = Number(own(module.params, drawn.length) ?? known?.default ?? LEAST_SHOWN)
  const most = Math.max(...rows.map(({ data }) => data.length ?? 0))
  const count = Math.min(most, Math.max(LEAST_SHOWN, length))
  return (
    <section
      className="editor"
      aria-label={`${description.label} of ${name}`}
      data-editor="rows"
      style={{ '--bar': kindColour(description.outputs[0]!.kind) } as object}
    >
      <Head {...props} drawn={drawn} rows={rows} length={length} />
      <div className="step-lanes" role="grid" aria-label={`Rows of ${name}`} aria-colcount={count}>
        <div className="step-lane" aria-hidden="true">
          <span className="step-label" />
          <span className="step-track step-numbers mono">
            {Array.from({ length: count }, (_, n) => (
              <span key={n} className="step-number" data-off={n >= length}>
                {n + 1}
              </span>
            ))}
          </span>
        </div>
        {rows.map((row, index) => (
          <StepLane
            key={row.data.name}
            row={row}
            module={module}
            name={name}
            entry={drawn.entry}
            count={count}
            length={length}
            isTall={index === 0 || isUsed(row, own(module.data, row.data.name))}
          />
        ))}
      </div>
    </section>
  )
}
