/** What a formula comes to for given values: for showing what its names hold now. What is heard is the engine's work. */
import { CONSTANTS } from './language.ts'
import type { Expression, ParsedFormula } from './parse.ts'

/** Values of names outside of the formula: inputs, fields, clocks, references; undefined counts as 0. */
export type Given = (name: string) => number | undefined

const C4_HZ = 261.6256
/** Nothing that is no number leaves a formula. */
const real = (x: number): number => (Number.isFinite(x) ? x : 0)
const modulo = (a: number, b: number): number => (b === 0 ? 0 : a - b * Math.floor(a / b))
const within = (x: number, low: number, high: number): number => Math.max(Math.min(x, high), low)
const smooth = (low: number, high: number, x: number): number => {
  const t = high === low ? Number(x >= low) : within((x - low) / (high - low), 0, 1)
  return t * t * (3 - 2 * t)
}

const CALLS: ReadonlyMap<string, (...values: readonly number[]) => number> = new Map<
  string,
  (...values: readonly number[]) => number
>([
  ['sin', (x) => Math.sin(x!)],
  ['cos', (x) => Math.cos(x!)],
  ['tan', (x) => Math.tan(x!)],
  ['atan', (x) => Math.atan(x!)],
  ['exp', (x) => Math.exp(x!)],
  ['log', (x) => Math.log(x!)],
  ['log2', (x) => Math.log2(x!)],
  ['sqrt', (x) => Math.sqrt(x!)],
  ['abs', (x) => Math.abs(x!)],
  ['sign', (x) => Math.sign(x!)],
  ['floor', (x) => Math.floor(x!)],
  ['ceil', (x) => Math.ceil(x!)],
  ['round', (x) => Math.floor(x! + 0.5)],
  ['fract', (x) => x! - Math.floor(x!)],
  ['mod', (a, b) => modulo(a!, b!)],
  ['min', (a, b) => Math.min(a!, b!)],
  ['max', (a, b) => Math.max(a!, b!)],
  ['clamp', (x, low, high) => within(x!, low!, high!)],
  ['mix', (a, b, t) => a! + (b! - a!) * t!],
  ['step', (edge, x) => Number(x! >= edge!)],
  ['smooth', (low, high, x) => smooth(low!, high!, x!)],
  ['tanh', (x) => Math.tanh(x!)],
  // Another one with every sample: of it the middle is told.
  ['noise', () => 0],
  ['hz', (x) => C4_HZ * 2 ** x!],
  ['pitch', (x) => Math.log2(x! / C4_HZ)],
  ['db', (x) => 20 * Math.log10(Math.abs(x!))],
  ['note', (x) => (x! - 60) / 12],
])

const OPERATORS: ReadonlyMap<string, (a: number, b: number) => number> = new Map<
  string,
  (a: number, b: number) => number
>([
  ['+', (a, b) => a + b],
  ['-', (a, b) => a - b],
  ['*', (a, b) => a * b],
  ['/', (a, b) => a / b],
  ['%', modulo],
  ['^', (a, b) => a ** b],
  ['<', (a, b) => Number(a < b)],
  ['>', (a, b) => Number(a > b)],
  ['<=', (a, b) => Number(a <= b)],
  ['>=', (a, b) => Number(a >= b)],
  ['==', (a, b) => Number(a === b)],
  ['!=', (a, b) => Number(a !== b)],
  ['and', (a, b) => Number(a !== 0 && b !== 0)],
  ['or', (a, b) => Number(a !== 0 || b !== 0)],
])

/** Values of all names a formula assigns, in order. `before`: what they held the last time, for `prev`. */
export const evaluated = (
  { statements }: Pick<ParsedFormula, 'statements'>,
  given: Given,
  before: ReadonlyMap<string, number> = new Map(),
): ReadonlyMap<string, number> => {
  const values = new Map<string, number>()
  const named = (name: string): number => values.get(name) ?? CONSTANTS.get(name) ?? given(name) ?? 0
  const of = (expression: Expression): number => real(plain(expression))
  const plain = (expression: Expression): number => {
    switch (expression.kind) {
      case 'number':
        return expression.value
      case 'name':
        return named(expression.name)
      case 'reference':
        return given(expression.target) ?? 0
      case 'previous':
        return before.get(expression.name) ?? given(expression.name) ?? 0
      case 'unary':
        return expression.operator === '-' ? -of(expression.of) : Number(of(expression.of) === 0)
      case 'choice':
        return of(of(expression.test) === 0 ? expression.no : expression.yes)
      case 'binary':
        return OPERATORS.get(expression.operator)!(of(expression.left), of(expression.right))
      case 'call':
        return CALLS.get(expression.name)!(...expression.arguments.map(of))
    }
  }
  for (const { name, value } of statements) if (!name.startsWith('=')) values.set(name, of(value))
  return values
}
