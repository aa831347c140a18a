/** Steps of a chain: what every kind of them has to say, one file a kind. */
import type { AssetSound } from '../describe/types.ts'
import type { Patch } from '../patch/types.ts'
import { described, numberIn } from '../units/described.ts'
import { own } from '../units/own.ts'
import type { Spool, Tape, TapeShape } from './tape.ts'

/** One step as files have it; unknown fields are kept. */
export interface ChainStep {
  readonly id: string
  readonly kind: string
  /** Off: what comes in goes out. */
  readonly on?: boolean
  readonly [field: string]: unknown
}

/** A patch that a step names, with the recordings it brings along. */
export interface StepPatch {
  readonly patch: Patch
  readonly assets: ReadonlyMap<string, AssetSound>
}

/** What plans ask for. */
export interface Lookup {
  readonly patch: (name: string) => StepPatch | undefined
}

/** What runs need besides. */
export interface Tools extends Lookup {
  readonly kernels: WebAssembly.Module
  readonly spool: (rate: number, channels: number) => Spool
}

/** What is wrong with a field, as a sentence's end. */
export type FieldFault = readonly [field: string, message: string]

export interface StepKind {
  readonly kind: string
  readonly faults: (step: ChainStep, shape: TapeShape, lookup: Lookup) => readonly FieldFault[]
  /** What comes out of what comes in. */
  readonly out: (step: ChainStep, shape: TapeShape) => TapeShape
  /** Frames it reads before it can give any, for progress. */
  readonly work: (step: ChainStep, shape: TapeShape) => number
  /** Where a frame of what comes in goes; undefined where it is gone. Left out, all stay where they are. */
  readonly goes?: (step: ChainStep, shape: TapeShape, frame: number) => number | undefined
  /** Makes the tape that comes out; tells frames read on the way. */
  readonly run: (step: ChainStep, tape: Tape, tools: Tools) => AsyncGenerator<number, Tape>
}

/** A number of a step, or what it is where it is left out. */
export const numberOf = (step: ChainStep, field: string, standard: number): number => {
  const value = own(step, field)
  return typeof value === 'number' ? value : standard
}

/** Faults of a number within bounds; left out it is fine. */
export const boundFaults = (
  step: ChainStep,
  field: string,
  low: number,
  high: number,
  { whole = false, unit = '' } = {},
): FieldFault[] => {
  const value = own(step, field)
  if (value === undefined) return []
  const fault =
    numberIn(value, low, high, unit) ??
    (whole && !Number.isInteger(value) ? `${String(value)} is not a whole number` : undefined)
  return fault === undefined ? [] : [[field, fault]]
}

export const wordFaults = (step: ChainStep, field: string, words: readonly string[]): FieldFault[] => {
  const value = own(step, field)
  return value === undefined || (typeof value === 'string' && words.includes(value))
    ? []
    : [[field, `${described(value)} is not one of ${words.join(', ')}`]]
}

/** A step that turns samples one by one, without looking at them beforehand. */
export const atOnce = (make: (step: ChainStep, tape: Tape) => Tape): Pick<StepKind, 'work' | 'run'> => ({
  work: () => 0,
  run: async function* run(step, tape) {
    return await Promise.resolve(make(step, tape))
  },
})

export const sameShape: StepKind['out'] = (_step, shape) => shape
