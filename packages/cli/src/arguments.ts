import { own } from '@ypsilon/core'
import { parseArgs, type ParseArgsConfig } from 'node:util'
import { BadInput } from './bad-input.ts'

export type Values = Readonly<Record<string, string | boolean | (string | boolean)[] | undefined>>

/** A number below 0 belongs to the option before it, though it begins as options do. */
const joined = (args: readonly string[], options: NonNullable<ParseArgsConfig['options']>): string[] => {
  const out: string[] = []
  for (const text of args) {
    const before = /^--([^=]+)$/.exec(out.at(-1) ?? '')?.[1]
    const option = before === undefined ? undefined : own(options, before)
    if (option?.type === 'string' && /^-[.\d]/.test(text)) out.push(`${out.pop()!}=${text}`)
    else out.push(text)
  }
  return out
}

/** Parses arguments; anything unexpected is bad input. */
export const readArguments = (
  args: string[],
  options: NonNullable<ParseArgsConfig['options']>,
  positionals: readonly string[],
  /** The last of them may be given several times. */
  more = false,
): { values: Values; names: string[] } => {
  let parsed
  try {
    parsed = parseArgs({ args: joined(args, options), options, allowPositionals: true, strict: true })
  } catch (error) {
    throw new BadInput([(error as Error).message.split('. To specify')[0]!])
  }
  if (parsed.positionals.length < positionals.length)
    throw new BadInput([`${positionals[parsed.positionals.length]} is missing; see --help`])
  if (!more && parsed.positionals.length > positionals.length)
    throw new BadInput([`"${parsed.positionals[positionals.length]}" is one argument too many; see --help`])
  return { values: parsed.values as Values, names: parsed.positionals }
}

/** A number inside bounds, or bad input naming the option. */
export const numberOption = (
  values: Values,
  name: string,
  low: number,
  high: number,
  whole = false,
): number | undefined => {
  const text = own(values, name)
  if (text === undefined) return undefined
  const value = typeof text === 'string' && text.trim() !== '' ? Number(text) : NaN
  if (!Number.isFinite(value)) throw new BadInput([`--${name}: "${String(text)}" is not a number`])
  if (whole && !Number.isInteger(value)) throw new BadInput([`--${name}: ${value} is not a whole number`])
  if (value < low || value > high) throw new BadInput([`--${name}: ${value} is outside ${low}…${high}`])
  return value
}

export const wordOption = (values: Values, name: string, words: readonly string[]): string | undefined => {
  const text = own(values, name)
  if (text === undefined) return undefined
  if (!words.includes(String(text)))
    throw new BadInput([`--${name}: "${String(text)}" is not one of ${words.join(', ')}`])
  return String(text)
}

export const listOption = (values: Values, name: string): string[] => {
  const list = own(values, name)
  return list === undefined ? [] : (Array.isArray(list) ? list : [list]).map(String)
}
