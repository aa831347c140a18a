/** What lists have in common, whatever they hold. */
import { described } from '../../units/described.ts'
import { own } from '../../units/own.ts'
import type { DataDescription, DataFault } from './kind.ts'

/** Longest list of any module's data. */
const LONGEST_LIST = 4096

/** Faults of a list, item by item. */
export const listFaults = (
  data: DataDescription,
  value: unknown,
  itemFault: (item: unknown) => DataFault | undefined,
): readonly DataFault[] => {
  if (!Array.isArray(value)) return [['', `expected a list, found ${described(value)}`]]
  const most = data.length ?? LONGEST_LIST
  if (value.length > most) return [['', `holds ${value.length} items, more than ${most}`]]
  return value.flatMap((item, index): DataFault[] => {
    const fault = itemFault(item)
    return fault ? [[`[${index}]${fault[0]}`, fault[1]]] : []
  })
}

/** Number fields of a record, with their ranges. */
export type Fields = Readonly<Record<string, readonly [low: number, high: number, required: boolean]>>

export const recordFault = (fields: Fields, item: unknown): DataFault | undefined => {
  if (typeof item !== 'object' || item === null || Array.isArray(item))
    return ['', `expected an object, found ${described(item)}`]
  for (const [field, [low, high, required]] of Object.entries(fields)) {
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
