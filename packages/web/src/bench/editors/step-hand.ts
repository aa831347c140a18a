/** Hands on a row of steps: drawn over with the mouse, and changed by keys. */
import { own, type PatchModule } from '@ypsilon/core'
import { heightOfStep, type StepRow, stepAtHeight, stepsOf, withStep } from '@ypsilon/core/describe/rows.ts'
import type { PointerEvent } from 'react'
import type { App } from '../../app/app.ts'
import { setData } from '../data-text.ts'
import { newGesture } from '../fields/types.ts'
import { followPointer } from '../follow-pointer.ts'

export interface Lane {
  readonly app: App
  readonly row: StepRow
  readonly module: PatchModule
  /** The module's, in words. */
  readonly name: string
  /** What one of them is called: step, partial. */
  readonly entry: string
  /** So many are shown. */
  readonly count: number
}

/** What the row holds by now. */
export const listOf = ({ row, module }: Lane): unknown => own(module.data, row.data.name) ?? row.data.default

/** Writes steps: one step of the history, or one a gesture. */
const write = ({ app, row, module, name }: Lane, list: unknown, gesture: string): void => {
  setData(app, module.id, row.data.name, list, {
    words: `Draw ${row.label} of ${name}`,
    gesture: `${module.id}.${row.data.name} ${gesture}`,
  })
}

export const setStep = (lane: Lane, index: number, value: number, gesture = newGesture('step')): void => {
  write(lane, withStep(lane.row, listOf(lane), index, value), gesture)
}

/** Draws over steps for as long as the button is held: what lies between two moves as well. Escape gives it up. */
export const drawSteps = (lane: Lane, event: PointerEvent<HTMLElement>): void => {
  const { row, count, module, app } = lane
  const { left, top, width, height } = event.currentTarget.getBoundingClientRect(),
    gesture = newGesture('draw')
  const indexAt = (x: number): number =>
    Math.min(count - 1, Math.max(0, Math.floor((count * (x - left)) / width)))
  const heightAt = (y: number): number => 1 - (y - top) / height
  let list = listOf(lane),
    last = { index: indexAt(event.clientX), height: heightAt(event.clientY) }
  // Of switches the first one says what all become.
  const to = row.isSwitch ? 1 - stepsOf(row, list)[last.index]! : undefined
  const put = (now: typeof last, isFree: boolean): void => {
    const steps = Math.abs(now.index - last.index)
    for (let n = steps === 0 ? 0 : 1; n <= steps; n += 1) {
      const share = steps === 0 ? 1 : n / steps
      const index = last.index + Math.round(share * (now.index - last.index)),
        at = last.height + share * (now.height - last.height)
      list = withStep(row, list, index, to ?? stepAtHeight(row, at, isFree))
    }
    last = now
    write(lane, list, gesture)
  }
  followPointer(event, {
    move: ({ clientX, clientY, altKey }) => {
      put({ index: indexAt(clientX), height: heightAt(clientY) }, altKey)
    },
    drop: () => undefined,
    giveUp: () => {
      app.document.getState().giveUp(`${module.id}.${row.data.name} ${gesture}`)
    },
  })
  put(last, event.altKey)
}

/** The value an arrow leaves a step with; undefined for other keys. */
export const nudgedStep = (
  row: StepRow,
  value: number,
  { key, shiftKey }: { readonly key: string; readonly shiftKey: boolean },
): number | undefined => {
  const { min, max } = row.param
  const by = STEPS.get(key)
  if (by === undefined) return undefined
  if (row.isSwitch) return by > 0 ? 1 : 0
  const next = value + by * (shiftKey ? row.grain / 10 : row.grain)
  // What was typed beyond what is drawn stays there.
  return Math.min(Math.max(max, value), Math.max(Math.min(min, value), next))
}
const STEPS: ReadonlyMap<string, number> = new Map([
  ['ArrowUp', 1],
  ['ArrowDown', -1],
  ['PageUp', 12],
  ['PageDown', -12],
])

/** Where a bar begins and how high it is, in shares of the row. */
export const barOf = (row: StepRow, value: number): { readonly from: number; readonly size: number } => {
  const zero = heightOfStep(row, row.zero),
    at = heightOfStep(row, value)
  return { from: Math.min(zero, at), size: Math.abs(at - zero) }
}
