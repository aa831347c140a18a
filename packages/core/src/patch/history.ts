/** Past and future of a document, and how the steps of one gesture become one. */
import type { Patch as Step } from 'immer'
import { applyChange, type Change, revertChange } from './document.ts'
import type { Patch } from './types.ts'

export interface History {
  readonly past: readonly Change[]
  readonly future: readonly Change[]
}
export const EMPTY_HISTORY: History = { past: [], future: [] }

const keyOf = (path: Step['path']): string => JSON.stringify(path)

/** Does it set one named field, so that nothing else moves by it? Places in lists do. */
const setsField = ({ path }: Step): boolean => {
  const last = path.at(-1)
  return typeof last === 'string' && last !== 'length'
}

/** May they be told apart by their places alone? Not where one stands within another. */
const areApart = (steps: readonly Step[]): boolean => {
  const places = new Set(steps.map(({ path }) => keyOf(path)))
  return steps.every(
    (step) =>
      setsField(step) &&
      step.path.every((_, end) => end === 0 || !places.has(keyOf(step.path.slice(0, end)))),
  )
}

/** One step for each place: the last one told. */
const lastOfEach = (steps: readonly Step[]): Step[] => {
  const found = new Map<string, Step>()
  for (const step of steps) {
    const key = keyOf(step.path),
      before = found.get(key)
    // What was not there before is still to be added.
    found.set(key, before?.op === 'add' && step.op === 'replace' ? { ...step, op: 'add' } : step)
  }
  return [...found.values()]
}

/** Two changes of one gesture as one: what is set again and again is set once, with its exact inverse. */
const merged = (last: Change, change: Change): Change => {
  const steps = [...last.steps, ...change.steps],
    inverse = [...change.inverse, ...last.inverse]
  const isPlain = areApart(steps) && areApart(inverse)
  return {
    ...change,
    steps: isPlain ? lastOfEach(steps) : steps,
    inverse: isPlain ? lastOfEach(inverse) : inverse,
  }
}

/** Is a change a further part of the gesture the history ends with? */
export const continues = (history: History, change: Change): boolean => {
  const last = history.past.at(-1)
  return last?.gesture !== undefined && last.gesture === change.gesture && history.future.length === 0
}

/** Adds a change; one of the same gesture as the last is merged into it. */
export const record = (history: History, change: Change): History =>
  continues(history, change)
    ? { past: [...history.past.slice(0, -1), merged(history.past.at(-1)!, change)], future: [] }
    : { past: [...history.past, change], future: [] }

/** The history with no more than so many steps behind and ahead. */
export const latestOf = (history: History, most: number): History => ({
  past: history.past.slice(-most),
  future: history.future.slice(0, most),
})

/** A document after a step through its history, and the change that was gone through. */
export interface Moved {
  readonly patch: Patch
  readonly history: History
  readonly change: Change
}

/** Takes back the last change; undefined when there is none. */
export const undo = (patch: Patch, history: History): Moved | undefined => {
  const change = history.past.at(-1)
  return (
    change && {
      patch: revertChange(patch, change),
      history: { past: history.past.slice(0, -1), future: [change, ...history.future] },
      change,
    }
  )
}

/** Takes back the last change as if it had not been made: it cannot be made again. */
export const dropped = (patch: Patch, history: History): Moved | undefined => {
  const moved = undo(patch, history)
  return moved && { ...moved, history: { past: moved.history.past, future: [] } }
}

/** Makes the change again that was taken back last; undefined when there is none. */
export const redo = (patch: Patch, history: History): Moved | undefined => {
  const [change, ...rest] = history.future
  return (
    change && {
      patch: applyChange(patch, change),
      history: { past: [...history.past, change], future: rest },
      change,
    }
  )
}
