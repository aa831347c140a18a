/** A drawn curve in the dock: points, bends, a grid to snap to, shapes to begin from, exact values. */
import { labelOf, own, type Point, printNumber, type Spans, spotOf } from '@ypsilon/core'
import { heightOf, pointsOfShape, SHAPES } from '@ypsilon/core/describe/redrawing.ts'
import { type KeyboardEvent, type PointerEvent, useEffect, useMemo, useRef, useState } from 'react'
import { useApp, useDocument } from '../../app/context.ts'
import { Choice } from '../../ui/select.tsx'
import { useNudge } from '../fields/use-nudge.ts'
import { type Drawn, dragPoint, dragStretch, putPoint, splitBehind, takePoint, write } from './curve-hand.ts'
import { PointFields, useLength } from './curve-fields.tsx'
import { plain } from './number-text.tsx'
import { nudged } from './curve-keys.ts'
import { HowTo } from './how-to.tsx'
import type { EditorProps } from './types.ts'

/** Places at which a bent stretch is drawn. */
const SAMPLES = 32
/** Grids, by the lines they have across and up. */
const GRIDS = ['off', '4', '8', '12', '16', '32'] as const

const cut = (value: number): number => Math.min(1, Math.max(0, value))

/** The line through all points, in a square of 100. */
const lineOf = (points: readonly Point[], spans: Spans): string => {
  const spots = points.map((point) => spotOf(point, spans))
  const at = spots.flatMap(([x, y], n): string[] => {
    const before = spots[n - 1],
      here = `${100 * x} ${100 * (1 - cut(y))}`
    if (!before || !points[n - 1]!.curve || x - before[0] < 1e-6) return [here]
    const bent = Array.from({ length: SAMPLES - 1 }, (_, i) => {
      const across = before[0] + ((x - before[0]) * (i + 1)) / SAMPLES
      return `${100 * across} ${100 * (1 - cut(heightOf(points, spans, across)))}`
    })
    return [...bent, here]
  })
  return `M${at.join('L')}`
}

interface GridProps {
  readonly across: number
  readonly up: number
}

const Grid = ({ across, up }: GridProps) => {
  const lines = (count: number): number[] => Array.from({ length: count + 1 }, (_, n) => (100 * n) / count)
  return (
    <g className="curve-grid">
      {lines(across || 4).map((x) => (
        <path key={`x${x}`} d={`M${x} 0V100`} />
      ))}
      {lines(up || 4).map((y) => (
        <path key={`y${y}`} d={`M0 ${y}H100`} />
      ))}
    </g>
  )
}

/** What the lines of the grid stand for. */
const Ticks = ({ drawn: { id, spans } }: { readonly drawn: Drawn }) => {
  const seconds = useLength(id, spans)
  const { left, right, foot, top } = spans
  return (
    <div aria-hidden="true">
      {[0, 0.5, 1].map((up) => (
        <span key={`up${up}`} className="curve-tick curve-tick-up mono" style={{ top: `${100 * (1 - up)}%` }}>
          {printNumber(plain('up', 'Up', foot, top), foot + up * (top - foot))}
        </span>
      ))}
      {[0, 0.25, 0.5, 0.75, 1].map((across) => (
        <span key={`at${across}`} className="curve-tick mono" style={{ left: `${100 * across}%` }}>
          {seconds === undefined
            ? printNumber(plain('at', 'At', left, right), left + across * (right - left))
            : printNumber(plain('at', 'At', 0, seconds, 's'), across * seconds)}
        </span>
      ))}
    </div>
  )
}

interface PointProps {
  readonly drawn: Drawn
  readonly index: number
  readonly isSelected: boolean
  readonly area: () => DOMRect
  readonly onSelect: (index: number | undefined) => void
}

/** One point: dragged, moved by arrows, bent with Alt and arrows, taken away. */
const CurvePoint = ({ drawn, index, isSelected, area, onSelect }: PointProps) => {
  const nudge = useNudge(drawn.app)
  const [x, y] = spotOf(drawn.points[index]!, drawn.spans),
    words = `Point ${index + 1} of ${drawn.points.length}`
  const onKeyDown = (event: KeyboardEvent): void => {
    const isTaken = keyed(event)
    if (!isTaken) return
    event.preventDefault()
    event.stopPropagation()
  }
  const keyed = (event: KeyboardEvent): boolean => {
    if (event.key === 'Delete' || event.key === 'Backspace') {
      takePoint(drawn, index)
      onSelect(index === drawn.points.length - 1 ? index : Math.max(0, index - 1))
      return true
    }
    if (event.key === 'Insert') {
      onSelect(splitBehind(drawn, index))
      return true
    }
    const next = nudged(drawn, index, event)
    if (!next) return false
    write(drawn, next.words, next.points, nudge())
    return true
  }
  return (
    <span
      role="slider"
      tabIndex={0}
      className="picture-handle curve-point nokey"
      data-point={index}
      data-selected={isSelected}
      aria-label={words}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * x)}
      aria-valuetext={`${Math.round(100 * x)} % across, ${Math.round(100 * y)} % up`}
      style={{ left: `${100 * x}%`, top: `${100 * (1 - cut(y))}%` }}
      onFocus={() => {
        onSelect(index)
      }}
      onPointerDown={(event) => {
        onSelect(index)
        dragPoint(drawn, index, event, area())
      }}
      onDoubleClick={(event) => {
        event.stopPropagation()
        takePoint(drawn, index)
        onSelect(undefined)
      }}
      onKeyDown={onKeyDown}
    />
  )
}

interface FieldProps {
  readonly drawn: Drawn
  readonly selected: number | undefined
  readonly onSelect: (index: number | undefined) => void
}

/** Where it is drawn. */
const Field = ({ drawn, selected, onSelect }: FieldProps) => {
  const box = useRef<HTMLDivElement>(null)
  const { points, spans, grid, name } = drawn
  const line = useMemo(() => lineOf(points, spans), [points, spans])
  const area = (): DOMRect => box.current!.getBoundingClientRect()
  const onPointerDown = (event: PointerEvent<HTMLDivElement>): void => {
    if (event.button !== 0) return
    event.preventDefault()
    if (!dragStretch(drawn, event, area())) onSelect(undefined)
  }
  return (
    <div className="curve-field-around">
      <div
        ref={box}
        className="curve-field"
        role="group"
        aria-label={`The curve of ${name}`}
        data-curve={drawn.id}
        onPointerDown={onPointerDown}
        onDoubleClick={(event) => {
          onSelect(putPoint(drawn, event.nativeEvent, area()))
        }}
      >
        <svg viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">
          <Grid {...grid} />
          <path className="curve-fill" d={`${line}L100 100L0 100Z`} />
          <path className="curve-line" d={line} />
        </svg>
        <Ticks drawn={drawn} />
        {points.map((_, index) => (
          <CurvePoint
            key={index}
            drawn={drawn}
            index={index}
            isSelected={index === selected}
            area={area}
            onSelect={onSelect}
          />
        ))}
      </div>
    </div>
  )
}

interface HeadProps extends FieldProps {
  readonly onGrid: (grid: GridProps) => void
}

const Head = ({ drawn, selected, onSelect, onGrid }: HeadProps) => {
  const { grid, spans, name } = drawn
  // What goes over time begins from 0, a transfer from its corner.
  const zero = spans.across === 't' ? -spans.foot / (spans.top - spans.foot) : 0
  const word = (count: number): string => (count > 0 ? String(count) : 'off')
  return (
    <div className="editor-head">
      <span className="text-ink2">Shape</span>
      <Choice
        label="Begin from a shape"
        value=""
        options={[{ value: '', label: 'begin from …' }, ...[...SHAPES.keys()].map((value) => ({ value }))]}
        onPointed={drawn.app.chart.focus}
        onChange={(shape) => {
          if (!shape) return
          write(drawn, `Draw ${shape} in ${name}`, pointsOfShape(SHAPES.get(shape)!, spans, zero))
          onSelect(undefined)
        }}
      />
      <span className="text-ink2">Snap across</span>
      <Choice
        label="Snap across"
        value={word(grid.across)}
        options={GRIDS.map((value) => ({ value }))}
        onPointed={drawn.app.chart.focus}
        onChange={(value) => {
          onGrid({ ...grid, across: Number(value) || 0 })
        }}
      />
      <span className="text-ink2">up</span>
      <Choice
        label="Snap up"
        value={word(grid.up)}
        options={GRIDS.map((value) => ({ value }))}
        onPointed={drawn.app.chart.focus}
        onChange={(value) => {
          onGrid({ ...grid, up: Number(value) || 0 })
        }}
      />
      <PointFields drawn={drawn} selected={selected} onSelect={onSelect} />
      <HowTo words="Double-click adds a point, on a point removes it. A drag on the line bends it. Arrows move, Alt with arrows bends, Insert and Delete add and remove. Alt while dragging lets go of the grid." />
    </div>
  )
}

const NO_GRID: GridProps = { across: 0, up: 0 }

export const CurveEditor = ({ module, description }: EditorProps) => {
  const app = useApp()
  const name = useDocument(({ patch }) => labelOf(patch, module.id))
  const [selected, setSelected] = useState<number | undefined>(undefined),
    [grid, setGrid] = useState(NO_GRID)
  const data = description.data!.find(({ kind }) => kind === 'points')!
  const points = (own(module.data, data.name) ?? data.default) as readonly Point[]
  useEffect(() => {
    // What undo took away is not selected any more.
    if (selected !== undefined && selected >= points.length) setSelected(undefined)
  }, [points, selected])
  const drawn: Drawn = {
    app,
    id: module.id,
    name,
    data: data.name,
    points,
    spans: data.spans!,
    grid,
  }
  return (
    <section className="editor" aria-label={`${description.label} of ${name}`} data-editor="curve">
      <Head drawn={drawn} selected={selected} onSelect={setSelected} onGrid={setGrid} />
      <Field drawn={drawn} selected={selected} onSelect={setSelected} />
    </section>
  )
}
