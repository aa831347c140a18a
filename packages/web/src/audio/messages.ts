import type { Delta, EngineEvent, Watch } from '@ypsilon/core'

/** What the page tells the worklet. */
export type ToWorklet =
  | { readonly type: 'plan'; readonly delta: Delta; readonly serial: number }
  /** Taken together, in order. */
  | { readonly type: 'events'; readonly events: readonly EngineEvent[] }
  | {
      readonly type: 'watch'
      readonly watches: readonly PageWatch[]
      /** What leaves the engine is wanted as well, both sides of it, behind all watches. */
      readonly hasOutput: boolean
      readonly words: readonly (readonly [number, number])[]
      readonly memoryBytes: number
      readonly serial: number
    }
  | { readonly type: 'guard'; readonly active: boolean }
  | { readonly type: 'open' }
  | { readonly type: 'record'; readonly on: boolean }
  | { readonly type: 'recycle'; readonly buffer: ArrayBuffer }

/** Every message has a number; reports say up to which one all are taken. */
export interface Numbered {
  readonly n: number
  readonly message: ToWorklet
}

export const RING = 512
/** A trace needs no more than every fourth sample; a probe needs all. */
export const THIN_STEP = 4

/** A signal that is watched. */
export interface PageWatch extends Watch {
  readonly isThin: boolean
}
/** Samples of a side that a watch brings. */
export const ringLength = ({ isThin }: Pick<PageWatch, 'isThin'>): number =>
  isThin ? RING / THIN_STEP : RING
/** Floats a watch takes in a report: its samples, then min, max and last, then those of its right side where it has one. */
export const watchFloats = (watch: Pick<PageWatch, 'isThin' | 'right'>): number =>
  ringLength(watch) + SUMMARY + (watch.right === undefined ? 0 : RING)
/** The name what leaves the engine goes by among signals. */
export const OUTPUT = 'output'
export const SUMMARY = 3

/** What the worklet reports about 94 times a second. */
export interface Report {
  readonly type: 'report'
  /** Number of the last message that was taken. */
  readonly taken: number
  /** Serial of the watch list these pictures belong to. */
  readonly serial: number
  readonly time: number
  readonly beats: number
  readonly running: boolean
  readonly peakLeft: number
  readonly peakRight: number
  readonly limited: boolean
  readonly stopped: boolean
  /** Everything was silenced, and nobody has played since. */
  readonly silenced: boolean
  readonly resets: number
  /** Share of real time spent, over the last half second; −1 until known. */
  readonly load: number
  /** Blocks since the start that took longer than they last. */
  readonly late: number
  readonly buffer: ArrayBuffer
  readonly count: number
}

export type FromWorklet =
  | Report
  | { readonly type: 'swapped'; readonly serial: number }
  | {
      readonly type: 'recorded'
      readonly left: Float32Array<ArrayBuffer>
      readonly right: Float32Array<ArrayBuffer>
      readonly isLast: boolean
    }
