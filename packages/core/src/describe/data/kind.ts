/**
 * What a kind of data (sequences, curves, tables a module keeps besides its parameters) has to say of itself: one record
 * a kind, one file a record; the index is generated from this folder.
 */
import type { ParamUnit } from '../kinds/number.ts'

/** What a drawn curve counts across and up, and where the sides, the foot and the top of its picture are. */
export interface Spans {
  readonly across: 't' | 'x'
  readonly up: 'v' | 'y'
  readonly left: number
  readonly right: number
  readonly foot: number
  readonly top: number
  /** The parameter that 1 across stands for: a length in seconds. */
  readonly length?: string
}

/** What a row of values shows, and what they are held to while they are drawn. */
export interface ShownRange {
  readonly min: number
  readonly max: number
  readonly unit: ParamUnit
  readonly grain: number
  /** The value bars stand on. */
  readonly zero: number
}

/** Lists and tables of a module: sequences, drawn curves. */
export interface DataDescription {
  readonly name: string
  /** Its kind: a file in describe/data. */
  readonly kind: string
  readonly label?: string
  readonly min?: number
  readonly max?: number
  readonly length?: number
  readonly default?: unknown
  /** What an entry counts as that the list does not reach: a value, or its place counted from 1. */
  readonly rest?: number | boolean | 'place'
  /** Of numbers: what of them is drawn; beyond that they are typed. */
  readonly shown?: ShownRange
  /** Of points: the picture they are drawn in. */
  readonly spans?: Spans
  /** Names that are there without the patch bringing anything. */
  readonly builtIn?: readonly string[]
  /** Name of the editor it is drawn by, where it is not its kind's; the page maps it to a component. */
  readonly editor?: string
}

/** Where in a value something is wrong ('' for the whole of it), and what, as a sentence's end. */
export type DataFault = readonly [place: string, message: string]

export interface DataKind {
  readonly kind: string
  /** What it holds, in words. */
  readonly words: string
  /** A text rather than a list: it has no length and goes from one to another at once. */
  readonly isText: boolean
  readonly faults: (data: DataDescription, value: unknown) => readonly DataFault[]
  /** What its user would want to know of a valid value; `assets`: ids of what the patch brings along. */
  readonly remark?: (data: DataDescription, value: unknown, assets: ReadonlySet<string>) => string | undefined
  /** Name of the editor it is drawn by. */
  readonly editor: string
}
