export { LEAST_SECONDS, leastOf } from './kinds/number.ts'
/** What a parameter means where it stands: its range and unit at the module's settings, and where modulation takes it. */
import type { NumberParam, ParamDescription } from './types.ts'
import { leastOf } from './kinds/number.ts'
import { own } from '../units/own.ts'

/** Settings of its module that it hangs on. */
export const followed = (param: ParamDescription): readonly string[] => {
  const on = ('stands' in param ? param.stands?.on : undefined) ?? []
  return param.kind === 'number' && param.follows ? [param.follows.choice, ...on] : on
}

/**
 * The parameter as it is at these settings: a delay's time has another range in samples than in milliseconds, a control of
 * a device is called what it sets.
 */
export const paramAt = <Param extends ParamDescription>(
  param: Param,
  values: Readonly<Record<string, unknown>> | undefined,
): Param => {
  if ('stands' in param && param.stands)
    return { ...param, ...param.stands.as((name) => String(own(values, name) ?? '')) }
  if (param.kind !== 'number' || !param.follows) return param
  const { choice, ranges } = param.follows
  const range = own(ranges, String(own(values, choice) ?? ''))
  return range ? { ...param, ...range } : param
}

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
