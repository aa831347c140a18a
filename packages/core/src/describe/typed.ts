/** What is typed for a parameter of any kind. */
import { parseChoice } from './fields.ts'
import { parseNumber, type Reading } from './reading.ts'
import type { ParamDescription } from './types.ts'

export type ParsedValue =
  | { readonly ok: true; readonly value: number | string | boolean }
  | { readonly ok: false; readonly message: string }

const SWITCHED: ReadonlyMap<string, boolean> = new Map([
  ['on', true],
  ['off', false],
])

const refused = (message: string): ParsedValue => ({ ok: false, message })

/** Reads what was typed for a parameter of any kind: numbers as `parseNumber`, the beginning of a choice, on or off, a word. */
export const parseValue = (param: ParamDescription, text: string, reading: Reading = {}): ParsedValue => {
  const word = text.trim()
  switch (param.kind) {
    case 'number':
      return parseNumber(param, word, reading)
    case 'choice': {
      const value = parseChoice(param, word)
      return value === undefined ? refused(`One of ${param.choices.join(', ')}.`) : { ok: true, value }
    }
    case 'switch': {
      const value = SWITCHED.get(word.toLowerCase())
      return value === undefined ? refused('On or off.') : { ok: true, value }
    }
    default:
      return { ok: true, value: word }
  }
}
