/** Sequences as hands change them: rows of steps, each a list of a module's data. All of it pure. */
import type { DataDescription, NumberParam, ShownRange } from './types.ts'
import { numbersOf } from './lists.ts'

/** One row of a sequence: what its steps may hold, and how they read. */
export interface StepRow {
  readonly data: DataDescription
  readonly label: string
  /** On and off, or a value. */
  readonly isSwitch: boolean
  /** How a value is typed and shown. */
  readonly param: NumberParam
  /** What a value is held to while it is drawn: semitones, hundredths, whole numbers. */
  readonly grain: number
  /** The value bars stand on. */
  readonly zero: number
}

/** What rows of values may be set to count in. */
const RANGES: ReadonlyMap<string, ShownRange> = new Map<string, ShownRange>([
  ['semitones', { min: -24, max: 24, unit: 'st', grain: 1, zero: 0 }],
  ['octaves', { min: -4, max: 4, unit: 'oct', grain: 1 / 12, zero: 0 }],
  ['bipolar', { min: -1, max: 1, unit: '%', grain: 0.01, zero: 0 }],
  ['unipolar', { min: 0, max: 1, unit: '%', grain: 0.01, zero: 0 }],
])
const SHARE: ShownRange = { min: 0, max: 1, unit: '%', grain: 0.01, zero: 0 }
const SWITCH: ShownRange = { min: 0, max: 1, unit: '', grain: 1, zero: 0 }

/** A row of a list; `range` is the word of the parameter that says what it counts in, where there is one. */
export const stepRow = (data: DataDescription, label: string, range?: string): StepRow => {
  const isSwitch = data.kind === 'booleans',
    known = range === undefined ? undefined : RANGES.get(range)
  const own = known ?? data.shown ?? (isSwitch ? SWITCH : (data.max ?? 1) <= 1 ? SHARE : undefined)
  const { min, max, unit, grain, zero } = own ?? {
    min: data.min ?? 0,
    max: data.max ?? 1,
    unit: '' as const,
    grain: 1,
    zero: data.min ?? 0,
  }
  const param: NumberParam = {
    kind: 'number',
    name: data.name,
    label,
    min,
    max,
    unit,
    default: restOf(data, 0),
  }
  return { data, label, isSwitch, param, grain, zero }
}

/** What an entry holds that the list does not reach. */
const restOf = ({ rest }: DataDescription, index: number): number => {
  if (rest === 'place') return index + 1
  return rest === true ? 1 : typeof rest === 'number' ? rest : 0
}
/** The same of a row. */
export const restAt = ({ data }: StepRow, index: number): number => restOf(data, index)

/** All steps of a row as numbers. */
export const stepsOf = (row: StepRow, value: unknown): readonly number[] =>
  numbersOf(value, row.data.length ?? 32, NaN).map((step, n) => (Number.isNaN(step) ? restAt(row, n) : step))

/** How high a value stands in its row, 0…1. */
export const heightOfStep = ({ param: { min, max } }: StepRow, value: number): number =>
  Math.min(1, Math.max(0, (value - min) / (max - min)))

/** The value at a height, held to the row's grain or free of it. */
export const stepAtHeight = (
  { param: { min, max }, data, grain, isSwitch }: StepRow,
  height: number,
  isFree = false,
): number => {
  const value = min + Math.min(1, Math.max(0, height)) * (max - min),
    held = isFree && !isSwitch ? value : Math.round(value / grain) * grain
  // A row may show a little more than the module takes: from 0 on where it takes 0.01.
  // And no −0: a file knows none.
  return Math.min(max, data.max ?? max, Math.max(min, data.min ?? min, held)) + 0
}

/** A row with one step set: a list as short as it can be, so that files stay readable. */
export const withStep = (
  row: StepRow,
  value: unknown,
  index: number,
  next: number,
): readonly (number | boolean)[] =>
  trimmed(
    row,
    stepsOf(row, value).map((old, n) => (n === index ? next : old)),
  )

/** Without what rests at its end anyway; switches as such. */
const trimmed = (row: StepRow, steps: readonly number[]): readonly (number | boolean)[] => {
  let length = steps.length
  while (length > 0 && steps[length - 1] === restAt(row, length - 1)) length -= 1
  const kept = steps.slice(0, length)
  return row.isSwitch ? kept.map((step) => step !== 0) : kept
}

/** Changes of a whole row over the steps that play; what is behind them stays. */
export type RowChange = 'rotate left' | 'rotate right' | 'reverse' | 'invert' | 'clear' | 'random'
export const ROW_CHANGES: readonly RowChange[] = [
  'rotate left',
  'rotate right',
  'reverse',
  'invert',
  'random',
  'clear',
]

/** @param random Numbers 0…1, for steps that are drawn by lot. */
export const changedRow = (
  row: StepRow,
  value: unknown,
  length: number,
  change: RowChange,
  random: () => number,
): readonly (number | boolean)[] => {
  const steps = stepsOf(row, value),
    playing = steps.slice(0, length)
  const { min, max } = row.param
  const turned = (by: number): number[] => playing.map((_, n) => playing[(n + by + length) % length]!)
  const next = (): readonly number[] => {
    switch (change) {
      case 'rotate left':
        return turned(1)
      case 'rotate right':
        return turned(-1)
      case 'reverse':
        return [...playing].reverse()
      case 'invert':
        return playing.map((step) =>
          row.isSwitch || row.zero === min ? min + max - step : 2 * row.zero - step,
        )
      case 'random':
        return playing.map(() => stepAtHeight(row, random()))
      case 'clear':
        return playing.map((_, n) => restAt(row, n))
    }
  }
  // What was typed beyond what is shown may turn into what the module does not take.
  const { min: least = -Infinity, max: most = Infinity } = row.data,
    changed = next().map((step) => Math.min(most, Math.max(least, step)))
  return trimmed(row, [...changed, ...steps.slice(length)])
}
