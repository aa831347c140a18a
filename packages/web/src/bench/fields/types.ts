import type { ParamDescription, ParamValue } from '@ypsilon/core'

/** How a field changes what it shows; changes of one gesture are one step. */
export interface FieldEdit {
  set(value: ParamValue, gesture: string): void
  /** Takes back what a gesture has set so far. */
  giveUp(gesture: string): void
}

/** For the `ref` of a mark that shows where a value was moved to. */
export type MovedRef = (element: HTMLElement | null) => (() => void) | undefined

export interface FieldProps {
  /** The module it belongs to. */
  readonly module: string
  readonly param: ParamDescription
  readonly value: ParamValue
  readonly tempo: number
  readonly edit: FieldEdit
  /** Reach of modulation as scale positions. */
  readonly band?: readonly [number, number] | undefined
  /** Is there a live value to be shown? */
  readonly isLive?: boolean
  readonly moved?: MovedRef | undefined
  /** After a drag the focus goes back to the chart. */
  readonly onDragged?: (() => void) | undefined
}

let gestures = 0
/** A name for a new gesture. */
export const newGesture = (kind: string): string => {
  gestures += 1
  return `${kind}-${gestures}`
}
