/** What a parameter means where it stands: its range and unit at the module's settings, and where modulation takes it. */
import type { NumberParam, ParamDescription } from './types.ts'
import { own } from '../units/own.ts'

/** Times are modulated in octaves of themselves plus this many seconds, so that 0 s is no dead end. */
export const LEAST_SECONDS = 0.0001

/** The parameter as it is at these settings: a delay's time has another range in samples than in milliseconds. */
export const paramAt = <Param extends ParamDescription>(
  param: Param,
  values: Readonly<Record<string, unknown>> | undefined,
): Param => {
  if (param.kind !== 'number' || !param.follows) return param
  const { choice, ranges } = param.follows
  const range = own(ranges, String(own(values, choice) ?? ''))
  return range ? { ...param, ...range } : param
}

/** `LEAST_SECONDS` in the unit of a time. */
export const leastOf = (param: NumberParam, sampleRate: number): number =>
  param.unit === 'ms'
    ? 1000 * LEAST_SECONDS
    : param.unit === 'samples'
      ? sampleRate * LEAST_SECONDS
      : LEAST_SECONDS

/** Where a modulation, in the parameter's modulation unit, takes a base value; within its range. */
export const modulated = (
  param: NumberParam,
  base: number,
  modulation: number,
  sampleRate = 48000,
): number => {
  const least = param.time ? leastOf(param, sampleRate) : 0
  const moved = param.log || param.time ? (base + least) * 2 ** modulation - least : base + modulation
  return Math.min(param.max, Math.max(param.min, moved))
}
