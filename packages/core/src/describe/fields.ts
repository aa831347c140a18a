/** Fields: printing what people see, and where a value stands on its scale. What they type is read in `reading.ts`. */
import type { ChoiceParam, NumberParam, ParamDescription, ParamUnit } from './types.ts'

const digits = (value: number): string => {
  const size = Math.abs(value)
  const places = size >= 1000 ? 0 : size >= 100 ? 1 : size >= 10 ? 1 : size >= 1 ? 2 : 3
  return value
    .toFixed(places)
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '')
    .replace('-', '−')
}

const withUnit = (unit: ParamUnit, value: number): string => {
  switch (unit) {
    case 's':
      return value < 1 ? `${digits(value * 1000)} ms` : `${digits(value)} s`
    case 'ms':
      return value >= 1000 ? `${digits(value / 1000)} s` : `${digits(value)} ms`
    case 'Hz':
      return value >= 1000 ? `${digits(value / 1000)} kHz` : `${digits(value)} Hz`
    case '%':
      return `${digits(value * 100)} %`
    case 'ct':
    case 'st':
    case 'oct':
      return `${value > 0 ? '+' : ''}${digits(value)} ${unit}`
    case '':
      return digits(value)
    default:
      return `${digits(value)} ${unit}`
  }
}

/** A value with its unit, as fields show it. Seconds below one are shown in ms, frequencies from 1000 in kHz. */
export const printNumber = (param: NumberParam, value: number): string => {
  if (param.shown) return printNumber(param.shown.param, param.shown.value(value))
  if (param.silence !== undefined && value <= param.silence) return 'silent'
  return withUnit(param.unit, value)
}

/** A value of any kind, as fields show it; a formula and a word as they are written. */
export const printValue = (param: ParamDescription | undefined, value: number | string | boolean): string => {
  if (param?.kind === 'number' && typeof value === 'number') return printNumber(param, value)
  if (typeof value === 'boolean') return value ? 'on' : 'off'
  return String(value)
}

/** How an amount reads at its target: "+1.9 oct", "± 6 ct", "× 0.5". */
export const printAmount = (param: ParamDescription | undefined, amount: number): string => {
  const sign = amount > 0 ? '+' : ''
  if (param?.kind !== 'number') return `× ${digits(amount)}`
  if (param.log || param.time) return `${sign}${digits(amount)} oct`
  if (param.unit === '%') return `${sign}${digits(amount * 100)} %`
  return `${sign}${digits(amount)}${param.unit ? ` ${param.unit}` : ''}`
}

/** Reads a choice by its beginning. */
export const parseChoice = (param: ChoiceParam, text: string): string | undefined =>
  param.choices.find((word) => word === text) ??
  param.choices.find((word) => word.toLowerCase().startsWith(text.trim().toLowerCase()))

/** Position 0…1 of a value on its scale: logarithmic for ∿, cubic for times, straight else. */
export const toScale = (param: NumberParam, value: number): number => {
  if (param.log) return Math.log(value / param.min) / Math.log(param.max / param.min)
  const x = (value - param.min) / (param.max - param.min)
  return param.time ? Math.cbrt(x) : x
}

export const fromScale = (param: NumberParam, position: number): number => {
  const x = Math.min(1, Math.max(0, position))
  if (param.log) return param.min * (param.max / param.min) ** x
  const value = param.min + (param.max - param.min) * (param.time ? x ** 3 : x)
  return param.whole ? Math.round(value) : value
}
