/** Lists in the dock, sequences and partials: rows that are drawn with the mouse, exact values typed, whole rows changed. */
import { type EditorDescription, labelOf, own, paramAt, parseNumber, setParam } from '@ypsilon/core'
import {
  changedRow,
  restAt,
  ROW_CHANGES,
  type RowChange,
  stepRow,
  stepsOf,
  type StepRow,
} from '@ypsilon/core/describe/rows.ts'
import { useMemo, useRef, useState } from 'react'
import { useApp, useDocument } from '../../app/context.ts'
import { Choice } from '../../ui/select.tsx'
import { kindColour } from '../../ui/icons.tsx'
import { setData } from '../data-text.ts'
import { HowTo } from './how-to.tsx'
import { TextField } from '../../ui/text-field.tsx'
import { NumberText, plain } from './number-text.tsx'
import { SpectrumSource } from './spectrum-source.tsx'
import { StepLane, type StepLaneProps } from './step-lane.tsx'
import { StepNow } from './step-now.tsx'
import type { EditorProps } from './types.ts'

/** So many steps are shown at least. */
const LEAST_SHOWN = 8

type Drawn = Extract<EditorDescription, { kind: 'rows' }>

/** The lists that are rows: all but the one that holds their lengths. */
const rowsOf = ({ data = [], editor }: EditorProps['description']) =>
  data.filter(({ name }) => editor?.kind !== 'rows' || name !== editor.lengths)

type LengthParts = Pick<StepLaneProps, 'length' | 'ownLength'> & {
  readonly onOwnLength?: (length: number) => void
}

/** How long each row is: as the sequence, or, where rows may, as long as it says itself. */
const useLengths = (
  { module, description }: EditorProps,
  drawn: Drawn,
  length: number,
): ((row: StepRow, index: number) => LengthParts) => {
  const app = useApp()
  const list = description.data?.find(({ name }) => name === drawn.lengths)
  if (!list) return () => ({ length })
  const now = (own(module.data, list.name) ?? list.default) as readonly number[]
  return (row, index) => {
    const ownLength = now[index] ?? 0
    return {
      length: ownLength > 0 ? ownLength : length,
      ownLength,
      onOwnLength: (value) => {
        const next = Array.from({ length: Math.max(now.length, index + 1) }, (_, n) =>
          n === index ? value : (now[n] ?? 0),
        )
        setData(app, module.id, list.name, next, { words: `Set the length of row ${row.label}` })
      },
    }
  }
}

/** After how many steps a row begins anew. */
const OwnLength = ({ row, ownLength = 0, onOwnLength }: LengthParts & { readonly row: StepRow }) => {
  const param = {
    ...plain('own', `Length of row ${row.label}`, 0, row.data.length ?? 32),
    whole: true,
  }
  return (
    <TextField
      className="mono w-10 text-right"
      label={param.label}
      value={ownLength > 0 ? String(ownLength) : 'all'}
      onCommit={(text) => {
        const read = /^\s*all\s*$/i.test(text) ? ({ ok: true, value: 0 } as const) : parseNumber(param, text)
        if (!read.ok) return `${read.message} Or write all.`
        onOwnLength?.(read.value)
        return undefined
      }}
    />
  )
}

/** What a lane shows of it. */
const shownLength = ({ length, ownLength }: LengthParts): Pick<StepLaneProps, 'length' | 'ownLength'> =>
  ownLength === undefined ? { length } : { length, ownLength }

/** Steps by number. */
const Numbers = ({ count, length, hasOwn }: { count: number; length: number; hasOwn: boolean }) => (
  <div className="step-lane" aria-hidden="true">
    <span className="step-label" />
    {hasOwn && <span className="step-own" />}
    <span className="step-track step-numbers mono">
      {Array.from({ length: count }, (_, n) => (
        <span key={n} className="step-number" data-off={n >= length}>
          {n + 1}
        </span>
      ))}
    </span>
  </div>
)

const useRows = ({ module: { params }, description }: EditorProps): readonly StepRow[] =>
  // Only with what they count in are they others, not with every step that is drawn.
  useMemo(
    () =>
      rowsOf(description).map((data) => {
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

interface HeadProps extends EditorProps {
  readonly name: string
  readonly drawn: Drawn
  readonly rows: readonly StepRow[]
  readonly length: number
  readonly lengthOf: (row: StepRow, index: number) => LengthParts
}

/** A row changed as a whole. */
const RowChoice = ({
  module,
  row,
  length,
}: Pick<EditorProps, 'module'> & { row: StepRow; length: number }) => {
  const app = useApp()
  return (
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
  )
}

const Head = ({ module, description, name, drawn, rows, length, lengthOf }: HeadProps) => {
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
      {drawn.lengths !== undefined && (
        <label className="flex items-center gap-1 text-ink2">
          of
          <OwnLength row={row} {...lengthOf(row, rows.indexOf(row))} />
        </label>
      )}
      <RowChoice module={module} row={row} length={length} />
      {drawn.spectrum && (
        <SpectrumSource
          module={module}
          description={description}
          name={name}
          {...drawn.spectrum}
          length={drawn.length}
          most={param?.kind === 'number' ? param.max : 64}
        />
      )}
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
  const count = Math.min(most, Math.max(LEAST_SHOWN, length)),
    lanes = useRef<HTMLDivElement>(null),
    lengthOf = useLengths(props, drawn, length)
  return (
    <section
      className="editor"
      aria-label={`${description.label} of ${name}`}
      data-editor="rows"
      style={{ '--bar': kindColour(description.outputs[0]!.kind) } as object}
    >
      <Head {...props} name={name} drawn={drawn} rows={rows} length={length} lengthOf={lengthOf} />
      <div
        ref={lanes}
        className="step-lanes"
        role="grid"
        aria-label={`Rows of ${name}`}
        aria-colcount={count}
      >
        <Numbers count={count} length={length} hasOwn={drawn.lengths !== undefined} />
        {description.tells?.includes('step') && <StepNow lanes={lanes} id={module.id} count={count} />}
        {rows.map((row, index) => (
          <StepLane
            key={row.data.name}
            row={row}
            module={module}
            name={name}
            entry={drawn.entry}
            count={count}
            {...shownLength(lengthOf(row, index))}
            isTall={index === 0 || isUsed(row, own(module.data, row.data.name))}
          />
        ))}
      </div>
    </section>
  )
}
