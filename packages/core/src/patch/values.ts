/** Single values of a patch: what may stand where a parameter or an entry of a module's data is set. */
import { isSignalParam } from '../describe/slots.ts'
import type { DataDescription, NumberParam, ParamDescription } from '../describe/types.ts'
import { errorText, parseFormula } from '../formula/parse.ts'
import { fieldFault, isFormula } from './formulas.ts'
import type { Fault } from './types.ts'
import { own } from '../units/own.ts'

/** Greatest size of a cable's amount, and of whatever else multiplies a signal. */
export const MOST_AMOUNT = 1e6

/** A value as it stands in a fault: short, on one line. */
export const described = (value: unknown): string => {
  if (value === undefined) return 'nothing'
  if (Array.isArray(value)) return 'a list'
  if (value === null) return 'null'
  if (typeof value === 'object') return 'an object'
  const text = JSON.stringify(value) ?? String(value)
  return text.length > 40 ? `${text.slice(0, 37)}…` : text
}

/** What is wrong with a number that must lie within bounds, as a sentence's end. */
export const numberIn = (value: unknown, low: number, high: number): string | undefined => {
  if (typeof value !== 'number') return `expected a number, found ${described(value)}`
  if (!Number.isFinite(value)) return 'is not a finite number'
  if (value < low) return `${value} is below ${low}`
  return value > high ? `${value} is above ${high}` : undefined
}

const unitOf = (param: NumberParam): string => (param.unit && param.unit !== '%' ? ` ${param.unit}` : '')

const numberFault = (param: NumberParam, value: unknown): string | undefined => {
  if (typeof value !== 'number') return `expected a number, found ${described(value)}`
  if (!Number.isFinite(value)) return 'is not a finite number'
  if (value < param.min) return `${value} is below ${param.min}${unitOf(param)}`
  if (value > param.max) return `${value} is above ${param.max}${unitOf(param)}`
  return param.whole && !Number.isInteger(value) ? `${value} is not a whole number` : undefined
}

/** What is wrong with a value for a parameter, as a sentence's end; undefined when nothing is. */
export const valueFault = (param: ParamDescription, value: unknown): string | undefined => {
  if (isFormula(value) && isSignalParam(param)) return fieldFault(value)
  switch (param.kind) {
    case 'number':
      return numberFault(param, value)
    case 'switch':
      return typeof value === 'boolean' ? undefined : `expected true or false, found ${described(value)}`
    case 'choice':
      return typeof value === 'string' && param.choices.includes(value)
        ? undefined
        : `${described(value)} is not one of ${param.choices.map((word) => `"${word}"`).join(', ')}`
    case 'text':
      return typeof value === 'string' ? undefined : `expected a text, found ${described(value)}`
  }
}

/** Longest list of any module's data. */
const LONGEST_LIST = 4096
/** Fields of the records in lists of records, with their ranges. */
const RECORDS: Readonly<
  Record<string, Readonly<Record<string, readonly [low: number, high: number, required: boolean]>>>
> = {
  points: {
    t: [0, 1e6, false],
    x: [-1e6, 1e6, false],
    v: [-10, 10, false],
    y: [-1e6, 1e6, false],
    curve: [-1, 1, false],
  },
  notes: { start: [0, 1e6, true], length: [0, 1e6, true], note: [0, 127, true], velocity: [0, 1, false] },
}

const itemFault = (
  data: DataDescription,
  item: unknown,
): readonly [place: string, message: string] | undefined => {
  if (data.kind === 'numbers') {
    if (typeof item !== 'number' || !Number.isFinite(item))
      return ['', `expected a number, found ${described(item)}`]
    if (data.min !== undefined && item < data.min) return ['', `${item} is below ${data.min}`]
    return data.max !== undefined && item > data.max ? ['', `${item} is above ${data.max}`] : undefined
  }
  if (data.kind === 'booleans')
    return typeof item === 'boolean' || item === 0 || item === 1
      ? undefined
      : ['', `expected true or false, found ${described(item)}`]
  if (typeof item !== 'object' || item === null || Array.isArray(item))
    return ['', `expected an object, found ${described(item)}`]
  for (const [field, [low, high, required]] of Object.entries(own(RECORDS, data.kind) ?? {})) {
    const value = own(item as Record<string, unknown>, field)
    if (value === undefined ? required : typeof value !== 'number' || !Number.isFinite(value))
      return [
        `.${field}`,
        value === undefined ? 'is missing' : `expected a number, found ${described(value)}`,
      ]
    if (typeof value === 'number' && (value < low || value > high))
      return [`.${field}`, `${value} is outside ${low}…${high}`]
  }
  return undefined
}

/** What is wrong with one entry of a module's data. */
export const dataFaults = (data: DataDescription, value: unknown, place: string): Fault[] => {
  if (data.kind === 'text' || data.kind === 'table') {
    if (typeof value !== 'string') return [{ place, message: `expected a text, found ${described(value)}` }]
    if (data.kind === 'table') return []
    return parseFormula(value, 'module')
      .errors.slice(0, 1)
      .map((error) => ({ place, message: errorText(error) }))
  }
  if (!Array.isArray(value)) return [{ place, message: `expected a list, found ${described(value)}` }]
  const most = data.length ?? LONGEST_LIST
  if (value.length > most) return [{ place, message: `holds ${value.length} items, more than ${most}` }]
  return value.flatMap((item, index) => {
    const fault = itemFault(data, item)
    return fault ? [{ place: `${place}[${index}]${fault[0]}`, message: fault[1] }] : []
  })
}
