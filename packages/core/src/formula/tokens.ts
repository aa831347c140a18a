/** A formula's text as tokens, and what can be told to be wrong from their order alone. */
import { DEEPEST, FUNCTION_NAMES, FUNCTIONS, WORD_OPERATORS } from './language.ts'

/** Where something stands in a formula's text, from 0. */
export interface Span {
  readonly start: number
  readonly end: number
}

export type TokenKind =
  'number' | 'name' | 'function' | 'reference' | 'operator' | 'bracket' | 'separator' | 'comment' | 'unknown'
export interface Token extends Span {
  readonly kind: TokenKind
  readonly text: string
}

/** What is wrong, where, and what was expected there. */
export interface FormulaError extends Span {
  readonly message: string
}

const TOKEN =
  /(?<comment>\/\/[^\n]*)|(?<space>\s+)|(?<number>(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)|(?<name>(?:macro:)?[A-Za-z_][A-Za-z0-9_]*(?:\.[A-Za-z_][A-Za-z0-9_]*)?)|(?<operator>==|!=|<=|>=|[-+*/%^<>?:=])|(?<bracket>[()])|(?<separator>[;,])|(?<unknown>[\s\S])/gu

const tokenKind = (group: string, text: string): TokenKind => {
  if (group !== 'name') return group as TokenKind
  if (WORD_OPERATORS.includes(text)) return 'operator'
  if (text.includes('.') || text.startsWith('macro:')) return 'reference'
  return FUNCTION_NAMES.has(text) || text === 'prev' ? 'function' : 'name'
}

export const tokenize = (text: string): Token[] => {
  const tokens: Token[] = []
  for (const match of text.matchAll(TOKEN)) {
    const [group, word] = Object.entries(match.groups!).find(([, value]) => value !== undefined)!
    if (group !== 'space')
      tokens.push({
        kind: tokenKind(group, word!),
        text: word!,
        start: match.index,
        end: match.index + word!.length,
      })
  }
  return tokens
}

export const EXPECTED_VALUE = 'a number, a name, a function or ('
const EXPECTED_MORE = 'an operator, ; or the end'

/** Errors of brackets and separators that need no grammar; the parser's own messages do not say where. */
export const bracketErrors = (tokens: readonly Token[], length: number): FormulaError[] => {
  const open: Token[] = []
  for (const token of tokens) {
    if (token.kind === 'unknown')
      return [
        {
          start: token.start,
          end: token.end,
          message: `found "${token.text}", which the language does not have${token.text === '#' ? '; a comment begins with //' : ''}`,
        },
      ]
    if (token.text === '(') open.push(token)
    if (token.text === ')' && !open.pop())
      return [
        {
          start: token.start,
          end: token.end,
          message: `found ) without a ( before it; expected ${EXPECTED_MORE}`,
        },
      ]
    if (open.length > DEEPEST)
      return [{ start: token.start, end: token.end, message: `brackets are nested deeper than ${DEEPEST}` }]
  }
  const last = open.at(-1)
  return last
    ? [{ start: length, end: length, message: `expected ) for the ( in column ${last.start + 1}` }]
    : []
}

const isOperand = (token: Token | undefined): boolean =>
  token !== undefined &&
  (token.kind === 'number' ||
    token.kind === 'name' ||
    token.kind === 'function' ||
    token.kind === 'reference' ||
    token.text === ')')
const isBinary = (token: Token): boolean =>
  token.kind === 'operator' && token.text !== 'not' && token.text !== '-' && token.text !== '+'

/** What is wrong with a token behind the one before it, or with the end of the text. */
const faultBehind = (
  before: Token | undefined,
  token: Token,
  opensCall: boolean,
): { readonly at: Span; readonly message: string } | undefined => {
  if (token.text === '=')
    return {
      at: token,
      message: 'found =; to compare write ==, to name a value write name = … at the start of a statement',
    }
  const isFollowed = isOperand(before) && !(before!.kind === 'function' && token.text === '(')
  if (isFollowed && token.text === '(')
    return {
      at: token,
      message: `"${before!.text}" is no function; the functions are ${FUNCTIONS.map((word) => word.name).join(', ')} and prev`,
    }
  if (isFollowed && beginsValue(token))
    return { at: token, message: `found "${token.text}"; expected ${EXPECTED_MORE}` }
  if (!isOperand(before) && needsValue(token, opensCall))
    return { at: token, message: `found "${token.text}"; expected ${EXPECTED_VALUE}` }
  return before?.kind === 'function' && token.text !== '(' && before.text !== 'noise'
    ? { at: { start: before.end, end: before.end }, message: `expected ( after ${before.text}` }
    : undefined
}

const beginsValue = (token: Token): boolean =>
  (isOperand(token) && token.text !== ')') || token.text === 'not'

/** Can a token stand only behind a value? A ) may end a call without values. */
const needsValue = (token: Token, opensCall: boolean): boolean =>
  isBinary(token) || token.text === ',' || (token.text === ')' && !opensCall)

/** The first token that cannot stand after the one before it. */
export const orderError = (tokens: readonly Token[], end: number): FormulaError | undefined => {
  for (const [i, token] of tokens.entries()) {
    const before = tokens[i - 1],
      opensCall = before?.text === '(' && tokens[i - 2]?.kind === 'function'
    const fault = faultBehind(before, token, opensCall)
    if (fault) return { start: fault.at.start, end: fault.at.end, message: fault.message }
  }
  return isOperand(tokens.at(-1))
    ? undefined
    : { start: end, end, message: `found the end; expected ${EXPECTED_VALUE}` }
}

/** Does a new line between two tokens end the statement? Not where one of them calls for more. */
export const endsLine = (before: Token, after: Token): boolean =>
  isOperand(before) && after.kind !== 'operator' && after.kind !== 'separator' && after.text !== ')'
