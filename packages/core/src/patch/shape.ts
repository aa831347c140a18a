/** Shapes of files, part by part, and what is wrong with a value by its place. */
import { array, boolean, mixed, number, string, type Schema, ValidationError } from 'yup'
import type { Fault } from './types.ts'
import { described } from '../units/described.ts'

export const typeError =
  (what: string) =>
  ({ value }: { value?: unknown }): string =>
    `expected ${what}, found ${described(value)}`

export const text = () => string().strict().typeError(typeError('a text'))
export const finite = () =>
  number()
    .strict()
    .typeError(typeError('a number'))
    .test('finite', 'is not a finite number', (value) => value === undefined || Number.isFinite(value))
export const between = (low: number, high: number) =>
  finite()
    .min(low, ({ value }) => `${value} is below ${low}`)
    .max(high, ({ value }) => `${value} is above ${high}`)
export const word = (words: readonly string[]) =>
  text().oneOf([...words], ({ value }) => `${described(value)} is not one of ${words.join(', ')}`)
export const flag = () => boolean().strict().typeError(typeError('true or false'))
export const record = () =>
  mixed().test(
    'record',
    ({ value }) => `expected an object, found ${described(value)}`,
    (value) => value === undefined || (typeof value === 'object' && value !== null && !Array.isArray(value)),
  )
export const list = <T extends Schema>(item: T) =>
  array()
    .of(item as Schema)
    .strict()
    .typeError(typeError('a list'))

/** Everything that is wrong with a value, by its place. */
export const faultsOf = (schema: Schema, value: unknown, place: string): Fault[] => {
  try {
    schema.validateSync(value, { abortEarly: false, strict: true })
    return []
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    const inner = error.inner.length > 0 ? error.inner : [error]
    return inner.map((fault) => ({
      place: [place, fault.path ?? ''].filter(Boolean).join('.'),
      message: String(fault.errors[0]),
    }))
  }
}
