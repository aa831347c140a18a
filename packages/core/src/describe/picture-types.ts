/** Pictures of modules: what they are drawn from, and where they are dragged. */

/** A picture of a module at its settings, for the inspector and the reference: plain data, x and y within 0…1. */
export interface Picture {
  readonly kind: 'line' | 'bars' | 'steps'
  /** What is seen, for those who do not see it. */
  readonly title: string
  readonly across: string
  readonly up: string
  readonly curves: readonly {
    readonly name?: string
    readonly points: readonly (readonly [x: number, y: number])[]
  }[]
  /** Marks along x: place and words. */
  readonly marks?: readonly (readonly [x: number, word: string])[]
  /** Where it stands now. */
  readonly dots?: readonly (readonly [x: number, y: number])[]
}

/** Values of a module that a handle sets. */
export interface HandleValues {
  readonly params?: Readonly<Record<string, number>>
  readonly data?: Readonly<Record<string, unknown>>
}

/** A place of a picture at which values are dragged; x and y within 0…1. */
export interface PictureHandle {
  /** What is dragged there, in words. */
  readonly name: string
  readonly at: readonly [x: number, y: number]
  /** Parameters that are said beside it. */
  readonly shows: readonly string[]
  /** What the values are with the handle at a place: by the picture as it was when it was taken. Out of range is for the reader to clamp. */
  readonly moved: (x: number, y: number) => HandleValues
}

/** What the engine tells of an output: its value now, and the one it told before. */
export interface Told {
  readonly value: number
  readonly before: number
}

/** Values a picture is drawn from; while it plays, parameters as modulation has them. */
export interface PictureContext {
  readonly number: (param: string) => number
  readonly choice: (param: string) => string
  readonly data: (name: string) => unknown
  /** An output as the engine tells it; undefined while it tells nothing. */
  readonly now?: (output: string) => Told | undefined
  /** A recording of the patch by its name, where it is there. */
  readonly recording?: (name: string) => RecordingShape | undefined
}

/** What is drawn of a recording: its loudest sample in each of equal parts, 0…1, and how long it is in seconds. */
export interface RecordingShape {
  readonly peaks: readonly number[]
  readonly seconds: number
  /** Its first side, ±1, for what is drawn sample by sample; not where only the peaks are known. */
  readonly samples?: Float32Array
}

/** `signal`: what its first output carries, or what comes in where it has none, drawn as it flows. */
export type Drawing = ((context: PictureContext) => Picture) | 'signal'
