/** Formulas as statements, with everything an editor could ask. */
import { CLOCKS, CONSTANTS, FUNCTION_NAMES, LONGEST_TEXT, MODULE_INPUTS, MOST_NAMES } from './language.ts'
import { type Expression, type FormulaUse, pastOf, type Reading, readExpression } from './expression.ts'
import {
  bracketErrors,
  endsLine,
  EXPECTED_VALUE,
  type FormulaError,
  type Span,
  type Token,
  tokenize,
} from './tokens.ts'

export type { Expression, FormulaUse } from './expression.ts'
export { type FormulaError, type Span, type Token, type TokenKind, tokenize } from './tokens.ts'

export interface Statement {
  readonly name: string
  readonly value: Expression
}

/**
 * Everything an editor could ask: tokens to colour, names to complete, errors with their place. `statements` is empty
 * when there are errors.
 */
export interface ParsedFormula {
  readonly tokens: readonly Token[]
  readonly statements: readonly Statement[]
  /** Names assigned so far, in order. */
  readonly names: readonly string[]
  readonly references: readonly { readonly target: string; readonly at: Span }[]
  readonly errors: readonly FormulaError[]
}

/** A statement as a range of tokens: name (of an assignment) and expression. */
interface Part {
  readonly name: Token | undefined
  readonly body: readonly Token[]
  readonly from: number
  readonly to: number
}

const splitStatements = (text: string, tokens: readonly Token[]): Part[] => {
  const parts: Part[] = []
  let body: Token[] = []
  const close = (to: number): void => {
    if (body.length > 0) {
      const named = body[1]?.text === '=' && (body[0]!.kind === 'name' || body[0]!.kind === 'function')
      parts.push(
        named
          ? { name: body[0], body: body.slice(2), from: body[1]!.end, to }
          : { name: undefined, body, from: body[0]!.start, to },
      )
    }
    body = []
  }
  let depth = 0
  for (const token of tokens) {
    const last = body.at(-1)
    if (last && depth === 0 && text.slice(last.end, token.start).includes('\n') && endsLine(last, token))
      close(last.end)
    if (token.text === '(') depth += 1
    if (token.text === ')') depth -= 1
    if (token.text === ';') close(token.start)
    else body.push(token)
  }
  close(text.length)
  return parts
}

/** Does a name mean something already? */
const hasMeaning = (name: string, use: FormulaUse): boolean =>
  CONSTANTS.has(name) ||
  CLOCKS.includes(name) ||
  FUNCTION_NAMES.has(name) ||
  name === 'prev' ||
  (use === 'module' && MODULE_INPUTS.includes(name))

/** Statements with what is assigned and asked for in them; errors are added to. */
const readStatements = (
  parts: readonly Part[],
  plain: string,
  use: FormulaUse,
  errors: FormulaError[],
): { readonly names: readonly string[]; readonly statements: Statement[] } => {
  const names = [...new Set(parts.flatMap(({ name }) => (name ? [name.text] : [])))]
  if (names.length > MOST_NAMES)
    errors.push({ start: 0, end: 0, message: `assigns more than ${MOST_NAMES} names` })
  const assigned = new Set<string>()
  const statements: Statement[] = []
  const past = new Set<string>()
  parts.forEach((part, index) => {
    const reading: Reading = { use, names, assigned, queue: [], past, errors, depth: 0 }
    const { name } = part
    if (name && hasMeaning(name.text, use))
      errors.push({
        start: name.start,
        end: name.end,
        message: `"${name.text}" has a meaning of its own and cannot be assigned`,
      })
    if (!name && index < parts.length - 1)
      errors.push({ start: part.from, end: part.from + 1, message: 'expected name = before this value' })
    const value = readExpression(plain, part.body, part.from, part.to, reading)
    statements.push({ name: name?.text ?? 'x', value })
    if (name) assigned.add(name.text)
  })
  // What was at an input is kept after all that may ask for it.
  for (const input of past)
    statements.push({ name: pastOf(input), value: { kind: 'name', name: input, at: { start: 0, end: 0 } } })
  return { names, statements }
}

/** Reads a formula. Never throws, whatever the text. */
export const parseFormula = (text: string, use: FormulaUse): ParsedFormula => {
  const broken = (errors: readonly FormulaError[], tokens: readonly Token[] = []): ParsedFormula => ({
    tokens,
    statements: [],
    names: [],
    references: [],
    errors,
  })
  if (text.length > LONGEST_TEXT)
    return broken([
      { start: LONGEST_TEXT, end: text.length, message: `is longer than ${LONGEST_TEXT} characters` },
    ])
  const all = tokenize(text),
    tokens = all.filter((token) => token.kind !== 'comment')
  const brackets = bracketErrors(tokens, text.length)
  if (brackets.length > 0) return broken(brackets, all)
  // Comments are blanks from here on.
  const plain = text.replace(/\/\/[^\n]*/g, (comment) => ' '.repeat(comment.length))
  const parts = splitStatements(plain, tokens)
  if (parts.length === 0)
    return broken(
      [
        {
          start: 0,
          end: 0,
          message:
            use === 'field' ? `expected ${EXPECTED_VALUE} after =` : 'is empty; write for example x = a * b',
        },
      ],
      all,
    )
  const errors: FormulaError[] = []
  const { names, statements } = readStatements(parts, plain, use, errors)
  const references = tokens
    .filter((token) => token.kind === 'reference')
    .map((token) => ({ target: token.text, at: { start: token.start, end: token.end } }))
  return {
    tokens: all,
    statements: errors.length > 0 ? [] : statements,
    names,
    references,
    errors: errors.sort((a, b) => a.start - b.start),
  }
}

/** An error in words, with its column counted from 1. */
export const errorText = (error: FormulaError): string => `column ${error.start + 1}: ${error.message}`
