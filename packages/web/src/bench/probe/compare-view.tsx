/** Two slots against each other: both curves, how far the second lies above the first, and the numbers of both. */
import type { Difference } from '@ypsilon/core/probe/compare.ts'
import type { ProbeKind } from '@ypsilon/core/probe/settings.ts'
import { X } from 'lucide-react'
import { useCallback, useEffect, useRef } from 'react'
import type { App } from '../../app/app.ts'
import { useApp, useDocument, useProbe } from '../../app/context.ts'
import type { SlotName } from '../../store/probe.ts'
import { Button, IconButton } from '../../ui/button.tsx'
import { Choice } from '../../ui/select.tsx'
import { valueWords } from './axes.ts'
import { type Paint, useProbeCanvas } from './canvas.ts'
import { differencePlot, drawCompared } from './compare-painter.ts'
import type { ProbeFeed } from './feed.ts'
import { KIND_LABELS } from './kinds.ts'
import { saveCsv, savePng, type Saved } from './save.ts'
import { probedOf } from './target.ts'

/** Kinds of which a difference says something. */
const COMPARABLE: readonly ProbeKind[] = [
  'spectrum',
  'level',
  'tuner',
  'decay',
  'density',
  'magnitude',
  'scope',
]
const TURN = 10

interface CompareProps {
  readonly feed: ProbeFeed
  readonly pair: readonly [SlotName, SlotName]
}

const signed = (value: number | null, unit: string): string =>
  value === null ? '–' : `${value > 0 ? '+' : ''}${valueWords(value, unit)}`

/** Rows of numbers: both, and how much the second is above the first. */
const rowsOf = (difference: Difference | undefined, unit: string): readonly (readonly string[])[] => [
  ...(difference?.readings ?? []).map(({ name, value, unit: own, other, more }) => [
    name,
    valueWords(value, own),
    valueWords(other, own),
    signed(more, own),
  ]),
  ['curves, mean', '', '', difference ? valueWords(difference.mean, unit) : '–'],
  ['at most', '', '', difference ? valueWords(difference.most, unit) : '–'],
]

const Numbers = ({ feed, pair }: CompareProps) => {
  const { frames } = useApp()
  const body = useRef<HTMLTableSectionElement>(null)
  useEffect(() => {
    let turn = 0
    return frames.paint(() => {
      turn = (turn + 1) % TURN
      if (turn !== 1 || !body.current) return
      const rows = rowsOf(feed.difference, feed.plot(pair[0])?.up.unit ?? '')
      while (body.current.rows.length > rows.length) body.current.deleteRow(-1)
      rows.forEach((cells, n) => {
        const row = body.current!.rows[n] ?? body.current!.insertRow()
        cells.forEach((text, m) => {
          const cell = row.cells[m] ?? row.insertCell()
          if (cell.textContent !== text) cell.textContent = text
        })
      })
    })
  }, [frames, feed, pair])
  return (
    <table className="probe-numbers mono" aria-label="Numbers of both">
      <thead>
        <tr>
          <td />
          <th>{pair[0]}</th>
          <th>{pair[1]}</th>
          <th>{`${pair[1]} − ${pair[0]}`}</th>
        </tr>
      </thead>
      <tbody ref={body} />
    </table>
  )
}

const savedOf = (app: App, feed: ProbeFeed, [a, b]: CompareProps['pair']): Saved | undefined => {
  const one = feed.plot(a),
    other = feed.plot(b),
    { patch } = app.document.getState(),
    { slots } = app.probe.getState()
  const [first, second] = [a, b].map((name) => probedOf(patch, slots[name].target ?? '')?.words ?? '')
  if (!one || !other) return undefined
  return {
    plot: one,
    overlays: [
      { name: second!, plot: other },
      ...(feed.difference?.curve
        ? [{ name: 'difference', plot: differencePlot(one, feed.difference.curve) }]
        : []),
    ],
    title: `${first!} against ${second!}`,
  }
}

const Head = ({ feed, pair, words }: CompareProps & { readonly words: readonly string[] }) => {
  const app = useApp(),
    [a, b] = pair
  const kind = useProbe(({ slots }) => slots[a].settings.kind)
  const save = (act: (app: App, saved: Saved) => void) => (): void => {
    const saved = savedOf(app, feed, pair)
    if (saved) act(app, saved)
  }
  return (
    <header className="probe-head">
      <span className="probe-pair min-w-0 flex-1 truncate">
        <b data-line="a">
          {a} {words[0]}
        </b>
        <b data-line="b">
          {b} {words[1]}
        </b>
      </span>
      <Choice
        label="What is compared"
        value={kind}
        options={COMPARABLE.map((value) => ({ value, label: KIND_LABELS[value] }))}
        onPointed={app.chart.focus}
        onChange={(value) => {
          for (const name of pair) app.probe.getState().set(name, { kind: value as ProbeKind })
        }}
      />
      <Button look="small" onClick={save(savePng)}>
        PNG
      </Button>
      <Button look="small" onClick={save(saveCsv)}>
        CSV
      </Button>
      <IconButton
        label="End comparing"
        isSmall
        side="top"
        onClick={() => {
          app.probe.getState().compare(undefined)
        }}
      >
        <X size={13} aria-hidden />
      </IconButton>
    </header>
  )
}

export const CompareView = ({ feed, pair }: CompareProps) => {
  const [a, b] = pair
  const slots = useProbe((state) => state.slots)
  const words = useDocument(({ patch }) =>
    pair.map((name) => probedOf(patch, slots[name].target ?? '')?.words ?? 'gone').join('\n'),
  ).split('\n')
  const { kind } = slots[a].settings
  const paint = useCallback<Paint>(
    (context, ink, size, pointer) => {
      drawCompared(
        context,
        ink,
        { a: feed.plot(a), b: feed.plot(b), difference: feed.difference, pointer },
        size,
      )
    },
    [feed, a, b],
  )
  const { ref, pointer } = useProbeCanvas(() => [feed.plot(a), feed.plot(b), feed.difference], paint)
  return (
    <section
      className="probe-slot probe-compare"
      data-compare={pair.join('')}
      aria-label={`${words[0]} against ${words[1]}`}
    >
      <Head feed={feed} pair={pair} words={words} />
      <div className="flex min-h-0 flex-1">
        <div className="relative min-w-0 flex-1">
          <canvas
            ref={ref}
            className="absolute inset-0 h-full w-full"
            role="img"
            aria-label={`${KIND_LABELS[kind]} of both, and the difference`}
            onPointerMove={({ nativeEvent: { offsetX: x, offsetY: y } }) => {
              pointer.current = { x, y }
            }}
            onPointerLeave={() => {
              pointer.current = undefined
            }}
          />
        </div>
        <Numbers feed={feed} pair={pair} />
      </div>
    </section>
  )
}

/** Two slots to be compared: the first two that are open. */
export const pairOf = (open: readonly SlotName[]): readonly [SlotName, SlotName] | undefined =>
  open.length >= 2 ? [open[0]!, open[1]!] : undefined
