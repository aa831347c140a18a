/** A transfer curve in the dock: drawn over, held to a grid, begun from a shape, by as many values as wanted. */
import { labelOf, own } from '@ypsilon/core'
import {
  DRAWN_HEIGHTS,
  drawnHeights,
  heightAt,
  type Heights,
  mirroredHeights,
  resampled,
  snappedHeight,
  transferOf,
  TRANSFERS,
  turnedOver,
} from '@ypsilon/core/describe/transfers.ts'
import { type KeyboardEvent, type PointerEvent, useState } from 'react'
import type { App } from '../../app/app.ts'
import { useApp, useDocument } from '../../app/context.ts'
import { Choice } from '../../ui/select.tsx'
import { setData } from '../data-text.ts'
import { newGesture } from '../fields/types.ts'
import { useNudge } from '../fields/use-nudge.ts'
import { followPointer } from '../follow-pointer.ts'
import { HowTo } from './how-to.tsx'
import { NumberText, plain } from './number-text.tsx'
import type { EditorProps } from './types.ts'

/** From the bottom of the picture to its top. */
const SPAN = 2.2
/** More values than these are drawn as a line without points. */
const MOST_POINTS = 33
const GRIDS = ['off', '4', '8', '16'] as const
const TURNS: ReadonlyMap<string, (list: Heights) => Heights> = new Map<string, (list: Heights) => Heights>([
  ['upside down', turnedOver],
  ['left and right exchanged', mirroredHeights],
])

interface Drawn {
  readonly app: App
  readonly id: string
  readonly name: string
  readonly data: string
  readonly list: Heights
  readonly lines: number
}

const write = (
  { app, id, data, name }: Drawn,
  list: Heights,
  words: string,
  gesture = newGesture('transfer'),
): void => {
  setData(app, id, data, [...list], { words: `${words} in ${name}`, gesture: `${id}.${data} ${gesture}` })
}

const upOf = (height: number): number => 0.5 + height / SPAN

/** Draws over the curve until the button is let go. */
const draw = (drawn: Drawn, event: PointerEvent<HTMLElement>): void => {
  if (event.button !== 0) return
  const { left, top, width, height } = event.currentTarget.getBoundingClientRect(),
    gesture = newGesture('draw')
  const spot = ({ clientX, clientY }: { readonly clientX: number; readonly clientY: number }) =>
    [(2 * (clientX - left)) / width - 1, SPAN * (0.5 - (clientY - top) / height)] as const
  // Of a few values each is moved, of a plain line as many as a hand can draw.
  let list = drawn.list.length < 3 ? resampled(drawn.list, DRAWN_HEIGHTS) : drawn.list,
    last = spot(event)
  const put = (now: typeof last, isFree: boolean): void => {
    list = drawnHeights(list, last, now, isFree ? 0 : drawn.lines)
    last = now
    write(drawn, list, 'Draw the curve', gesture)
  }
  put(last, event.altKey)
  followPointer(event, {
    move: (moved) => {
      put(spot(moved), moved.altKey)
    },
    drop: () => undefined,
    giveUp: () => {
      drawn.app.document.getState().giveUp(`${drawn.id}.${drawn.data} ${gesture}`)
    },
  })
}

const KEYS: ReadonlyMap<string, number> = new Map([
  ['ArrowUp', 1],
  ['ArrowDown', -1],
  ['PageUp', 5],
  ['PageDown', -5],
])

/** One value of a few: moved by keys; the mouse draws. */
const Value = ({ drawn, index }: { readonly drawn: Drawn; readonly index: number }) => {
  const { list, lines } = drawn,
    nudge = useNudge(drawn.app)
  const x = index / (list.length - 1),
    height = list[index]!
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = KEYS.get(event.key)
    if (by === undefined) return
    event.preventDefault()
    event.stopPropagation()
    const step = lines > 0 ? 2 / lines : event.shiftKey ? 0.002 : 0.02,
      to = snappedHeight(Math.min(4, Math.max(-4, height + by * step)), lines)
    write(
      drawn,
      list.map((other, n) => (n === index ? to : other)),
      'Draw the curve',
      nudge(),
    )
  }
  return (
    <span
      role="slider"
      tabIndex={0}
      className="picture-handle curve-point nokey"
      data-value={index}
      aria-label={`Out at ${(2 * x - 1).toFixed(2)}`}
      aria-valuemin={-4}
      aria-valuemax={4}
      aria-valuenow={height}
      style={{ left: `${100 * x}%`, top: `${100 * (1 - upOf(height))}%` }}
      onKeyDown={onKeyDown}
    />
  )
}

const Head = ({ drawn, onLines }: { readonly drawn: Drawn; readonly onLines: (lines: number) => void }) => {
  const { app, list, lines } = drawn
  return (
    <div className="editor-head">
      <span className="text-ink2">Shape</span>
      <Choice
        label="Begin from a shape"
        value=""
        options={[
          { value: '', label: 'begin from …' },
          ...[...TRANSFERS.keys(), ...TURNS.keys()].map((value) => ({ value })),
        ]}
        onPointed={app.chart.focus}
        onChange={(shape) => {
          if (!shape) return
          const turn = TURNS.get(shape)
          write(
            drawn,
            turn ? turn(list) : transferOf(shape, Math.max(list.length, DRAWN_HEIGHTS)),
            `Draw ${shape}`,
          )
        }}
      />
      <NumberText
        param={{ ...plain('values', 'Values', 2, 2048), whole: true }}
        value={list.length}
        onSet={(count) => {
          write(drawn, resampled(list, count), `Make it ${count} values`)
        }}
      />
      <span className="text-ink2">Snap up</span>
      <Choice
        label="Snap up"
        value={lines > 0 ? String(lines) : 'off'}
        options={GRIDS.map((value) => ({ value }))}
        onPointed={app.chart.focus}
        onChange={(value) => {
          onLines(Number(value) || 0)
        }}
      />
      <HowTo words="Draw over the curve with the mouse; Alt lets go of the grid. Up to 33 values are points that arrows move, Shift finely. What comes in goes from −1 at the left to 1 at the right." />
    </div>
  )
}

export const TransferEditor = ({ module, description }: EditorProps) => {
  const app = useApp()
  const name = useDocument(({ patch }) => labelOf(patch, module.id))
  const [lines, setLines] = useState(0)
  const data = description.data!.find(({ kind }) => kind === 'numbers')!,
    list = (own(module.data, data.name) ?? data.default) as Heights
  const drawn: Drawn = { app, id: module.id, name, data: data.name, list, lines }
  const line = Array.from({ length: 257 }, (_, n) => {
    const x = n / 256
    return `${100 * x} ${100 * (1 - upOf(heightAt(list, 2 * x - 1)))}`
  }).join('L')
  return (
    <section className="editor" aria-label={`${description.label} of ${name}`} data-editor="transfer">
      <Head drawn={drawn} onLines={setLines} />
      <div className="curve-field-around">
        <div
          className="curve-field"
          role="group"
          aria-label={`The curve of ${name}`}
          data-curve={module.id}
          onPointerDown={(event) => {
            draw(drawn, event)
          }}
        >
          <svg viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">
            <g className="curve-grid">
              {[0, 25, 50, 75, 100].map((at) => (
                <path key={at} d={`M${at} 0V100M0 ${100 * (1 - upOf(at / 50 - 1))}H100`} />
              ))}
            </g>
            <path className="curve-line curve-line-audio" d={`M${line}`} />
          </svg>
          {list.length <= MOST_POINTS &&
            list.map((_, index) => <Value key={index} drawn={drawn} index={index} />)}
          {[-1, 0, 1].map((at) => (
            <span
              key={`x${at}`}
              className="curve-tick mono"
              style={{ left: `${50 * (at + 1)}%` }}
              aria-hidden="true"
            >
              {String(at).replace('-', '−')}
            </span>
          ))}
          {[-1, 0, 1].map((at) => (
            <span
              key={`y${at}`}
              className="curve-tick curve-tick-up mono"
              style={{ top: `${100 * (1 - upOf(at))}%` }}
              aria-hidden="true"
            >
              {String(at).replace('-', '−')}
            </span>
          ))}
        </div>
      </div>
    </section>
  )
}
