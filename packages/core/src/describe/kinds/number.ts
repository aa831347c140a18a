/** A number: base value plus modulation. */
import { numberIn } from '../../units/described.ts'
import { exactExp, exactLog } from '../../units/exact.ts'
import { ownNumber, readNumber } from '../words.ts'
import { type Way, within } from '../ways.ts'
import type { ParamCommon, ParamKind, Standing } from './kind.ts'

export type ParamUnit =
  '' | 'Hz' | 'dB' | 's' | 'ms' | 'ct' | 'st' | 'oct' | 'bpm' | '%' | 'samples' | 'dB/oct' | 'deg' | '/s'

export interface Param extends ParamCommon {
  readonly kind: 'number'
  readonly min: number
  readonly max: number
  readonly default: number
  readonly unit: ParamUnit
  /** Logarithmic: shown and modulated in octaves. */
  readonly log?: boolean
  /** A time of an envelope, glide or delay: linear on screen below, but modulated in octaves. */
  readonly time?: boolean
  /** Whole numbers only. */
  readonly whole?: boolean
  /** Changes on the exact sample instead of over 15 ms. */
  readonly exact?: boolean
  /** The kernel also reads 2^modulation by itself. */
  readonly factor?: boolean
  /** Range and unit where they follow the word a choice is set to (by word; others keep what stands above). */
  readonly follows?: {
    readonly choice: string
    readonly ranges: Readonly<
      Record<string, { readonly min: number; readonly max: number; readonly unit: ParamUnit }>
    >
  }
  /** Fields show it as this: a value of another, in its unit. What patches hold stays what it is. */
  readonly shown?: {
    readonly param: Param
    readonly value: (own: number) => number
    readonly share: (shown: number) => number
  }
  readonly stands?: Standing<{
    readonly label: string
    readonly help: string
    readonly shown?: Param['shown']
  }>
  /** The value at which the field says silence instead of a level. */
  readonly silence?: number
}

/** Times are modulated in octaves of themselves plus this many seconds, so that 0 s is no dead end. */
export const LEAST_SECONDS = 0.0001
/** In samples it is counted at this rate, whatever the engine's, where a way is meant. */
const COUNTED_RATE = 48000

/** `LEAST_SECONDS` in the unit of a time. */
export const leastOf = (param: Param, sampleRate: number): number =>
  param.unit === 'ms'
    ? 1000 * LEAST_SECONDS
    : param.unit === 'samples'
      ? sampleRate * LEAST_SECONDS
      : LEAST_SECONDS

/** What is added to a value before its octaves count. */
export const octavesFrom = (param: Param): number => (param.time ? leastOf(param, COUNTED_RATE) : 0)

export const clampTo = ({ min, max }: Param, value: number): number => Math.min(max, Math.max(min, value))

/** A number between two values of a parameter, at a share of the way in its modulation unit: octaves for ∿ and times. */
const between = (param: Param, from: number, to: number, share: number): number => {
  if (share <= 0 || from === to) return from
  if (share >= 1) return to
  const least = octavesFrom(param)
  if (!(param.log || param.time) || from + least <= 0 || to + least <= 0) return from + (to - from) * share
  return (from + least) * exactExp(share * exactLog((to + least) / (from + least))) - least
}

/** Where a value stands between two others, in the modulation unit; not held within 0…1. */
const shareBetween = (param: Param, from: number, to: number, value: number): number => {
  const least = octavesFrom(param)
  if (!(param.log || param.time) || from + least <= 0 || to + least <= 0 || value + least <= 0)
    return to === from ? 0 : (value - from) / (to - from)
  return to === from
    ? 0
    : exactLog((value + least) / (from + least)) / exactLog((to + least) / (from + least))
}

const numberWay = (param: Param, low: number, high: number): Way => {
  const from = clampTo(param, low),
    to = clampTo(param, high)
  return {
    at: (share) => {
      const value = between(param, from, to, within(share))
      return param.whole ? Math.round(value) : value
    },
    shareOf: (value) => within(shareBetween(param, from, to, Number(value))),
  }
}

const rangeOf = (param: Param): string => {
  const plain = `${ownNumber(param.min, param.unit)} … ${ownNumber(param.max, param.unit)}${param.log ? ', logarithmic' : ''}`
  const { follows } = param
  if (!follows) return plain
  return [
    plain,
    ...Object.entries(follows.ranges).map(
      ([word, { min, max, unit }]) =>
        `with ${follows.choice} ${word}: ${ownNumber(min, unit)} … ${ownNumber(max, unit)}`,
    ),
  ].join('; ')
}

export const kind: ParamKind<Param> = {
  kind: 'number',
  isSignal: true,
  stored: 'f32',
  mode: (param) => (param.log ? 'octaves' : param.time ? 'time' : 'linear'),
  isExact: (param) => param.exact === true,
  isContinuous: true,
  isMovable: true,
  fault: (param, value) => {
    const unit = param.unit && param.unit !== '%' ? ` ${param.unit}` : ''
    return (
      numberIn(value, param.min, param.max, unit) ??
      (param.whole && !Number.isInteger(value) ? `${Number(value)} is not a whole number` : undefined)
    )
  },
  plain: (_param, value) => Number(value),
  read: readNumber,
  way: numberWay,
  range: rangeOf,
  standard: (param) => ownNumber(param.default, param.unit),
  moved: (param) =>
    param.log || param.time ? 'octaves' : param.unit === '%' ? '0…1' : param.unit || 'its own number',
  editor: 'number',
}
