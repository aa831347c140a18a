/** A sequence in the dock: rows that are drawn with the mouse, exact values typed, whole rows changed. */
import { type DataDescription, labelOf, own, paramAt, type PatchModule, setParam } from '@ypsilon/core'
import {
  changedRow,
  ROW_CHANGES,
  type RowChange,
  stepRow,
  type StepRow,
} from '@ypsilon/core/describe/rows.ts'
import { useMemo, useState } from 'react'
import { useApp, useDocument } from '../../app/context.ts'
import { Choice } from '../../ui/select.tsx'
import { Tip } from '../../ui/tooltip.tsx'
import { setData } from '../data-text.ts'
import { NumberText } from './number-text.tsx'
import { StepLane } from './step-lane.tsx'
import type { EditorProps } from './types.ts'

/** So many steps are shown at least. */
const LEAST_SHOWN = 8

/** A row, and what the parameter it counts in says: `rangeA` for row a. */
const rowOf = (data: DataDescription, range: string | undefined): StepRow =>
  stepRow(data, data.label ?? data.name, range)

const useRows = ({ module: { params }, description }: EditorProps): readonly StepRow[] =>
  // Only with what they count in are they others, not with every step that is drawn.
  useMemo(
    () =>
      (description.data ?? []).map((data) => {
        const name = `range${data.name.toUpperCase()}`
        const known = description.params.find((param) => param.name === name)
        return rowOf(data, known && String(own(params, name) ?? known.default))
      }),
    [params, description],
  )

interface HeadProps {
  readonly module: PatchModule
  readonly rows: readonly StepRow[]
  readonly length: number
  readonly props: EditorProps
}

const Head = ({ module, rows, length, props: { description } }: HeadProps) => {
  const app = useApp(),
    { document } = app
  const [chosen, setChosen] = useState(rows[0]!.data.name)
  const row = rows.find(({ data }) => data.name === chosen) ?? rows[0]!
  const known = description.params.find(({ name }) => name === 'length')
  const param = known && paramAt(known, module.params)
  return (
    <div className="editor-head">
      {param?.kind === 'number' && (
        <NumberText
          param={param}
          value={length}
          onSet={(value) => {
            document.getState().change(`Set the length of ${description.label.toLowerCase()}`, (draft) => {
              setParam(draft, module.id, 'length', value)
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
      <Tip words="Draw with the mouse over several steps; Alt lets go of whole steps. Double-click or Enter types a value: 7 st, 3/2, 50 %. Arrows go along and change the value, Shift finely; Delete goes back to rest.">
        <span className="ml-auto cursor-help text-ink2" tabIndex={0} role="note" aria-label="How to draw">
          ?
        </span>
      </Tip>
    </div>
  )
}

export const StepsEditor = (props: EditorProps) => {
  const { module, description } = props
  const name = useDocument(({ patch }) => labelOf(patch, module.id))
  const rows = useRows(props)
  const known = description.params.find((param) => param.name === 'length'),
    length = Number(own(module.params, 'length') ?? known?.default ?? LEAST_SHOWN)
  const most = Math.max(...rows.map(({ data }) => data.length ?? 0))
  const count = Math.min(most, Math.max(LEAST_SHOWN, length))
  return (
    <section className="editor" aria-label={`${description.label} of ${name}`} data-editor="steps">
      <Head module={module} rows={rows} length={length} props={props} />
      <div className="step-lanes" role="grid" aria-label={`Steps of ${name}`} aria-colcount={count}>
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
            count={count}
            length={length}
            isTall={index < 2 && !row.isSwitch}
          />
        ))}
      </div>
    </section>
  )
}
