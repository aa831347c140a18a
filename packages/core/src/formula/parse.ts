import jsep from 'jsep'
import {
  CLOCKS,
  CONSTANTS,
  DEEPEST,
  FUNCTION_NAMES,
  FUNCTIONS,
  LONGEST_TEXT,
  MODULE_INPUTS,
  MOST_NAMES,
  WORD_OPERATORS,
} from './language.ts'

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

export type Expression =
  | { readonly kind: 'number'; readonly value: number }
  | { readonly kind: 'name'; readonly name: string; readonly at: Span }
  /** `module.port` or `macro:id`. */
  | { readonly kind: 'reference'; readonly target: string; readonly at: Span }
  | { readonly kind: 'unary'; readonly operator: '-' | 'not'; readonly of: Expression }
  | {
      readonly kind: 'binary'
      readonly operator: string
      readonly left: Expression
      readonly right: Expression
    }
  | { readonly kind: 'choice'; readonly test: Expression; readonly yes: Expression; readonly no: Expression }
  | { readonly kind: 'call'; readonly name: string; readonly arguments: readonly Expression[] }
  | { readonly kind: 'previous'; readonly name: string; readonly at: Span }

export interface Statement {
  readonly name: string
  readonly value: Expression
}

/** What is wrong, where, and what was expected there. */
export interface FormulaError extends Span {
  readonly message: string
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

/** A module's formula assigns names; a field's is one expression that may name ports and parameters. */
export type FormulaUse = 'module' | 'field'

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

/** The parser package, told the language's operators and nothing else. Brackets leave a node, so that -a ^ b can be told from (-a) ^ b. */
const grammar = ((): typeof jsep => {
  jsep.removeAllBinaryOps()
  jsep.removeAllUnaryOps()
  jsep.removeAllLiterals()
  const levels: readonly (readonly string[])[] = [
    ['or'],
    ['and'],
    ['==', '!=', '<', '>', '<=', '>='],
    ['+', '-'],
    ['*', '/', '%'],
  ]
  levels.forEach((operators, level) => operators.forEach((operator) => jsep.addBinaryOp(operator, level + 1)))
  jsep.addBinaryOp('^', 10, true)
  jsep.addUnaryOp('-')
  jsep.addUnaryOp('+')
  jsep.addUnaryOp('not')
  jsep.hooks.add(
    'gobble-token',
    function (this: { code: number; gobbleGroup(): jsep.Expression }, env: { node?: jsep.Expression }) {
      if (this.code === 40) env.node = { type: 'Group', body: this.gobbleGroup() }
    },
  )
  return jsep
})()

const EXPECTED_VALUE = 'a number, a name, a function or ('
const EXPECTED_MORE = 'an operator, ; or the end'

/** Errors of brackets and separators that need no grammar; the parser's own messages do not say where. */
const bracketErrors = (tokens: readonly Token[], length: number): FormulaError[] => {
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

/** The first token that cannot stand after the one before it. */
const orderError = (tokens: readonly Token[], end: number): FormulaError | undefined => {
  for (let i = 0; i <= tokens.length; i += 1) {
    const before = tokens[i - 1],
      token = tokens[i]
    const after = isOperand(before) && !(before!.kind === 'function' && token?.text === '(')
    if (!token)
      return isOperand(before)
        ? undefined
        : { start: end, end, message: `found the end; expected ${EXPECTED_VALUE}` }
    const place = { start: token.start, end: token.end }
    if (token.text === '=')
      return {
        ...place,
        message: 'found =; to compare write ==, to name a value write name = … at the start of a statement',
      }
    if (after && ((isOperand(token) && token.text !== ')') || token.text === '(' || token.text === 'not')) {
      return token.text === '('
        ? {
            ...place,
            message: `"${before!.text}" is no function; the functions are ${FUNCTIONS.map((word) => word.name).join(', ')} and prev`,
          }
        : { ...place, message: `found "${token.text}"; expected ${EXPECTED_MORE}` }
    }
    if (
      !isOperand(before) &&
      (isBinary(token) ||
        token.text === ',' ||
        (token.text === ')' && !(before?.text === '(' && tokens[i - 2]?.kind === 'function')))
    )
      return { ...place, message: `found "${token.text}"; expected ${EXPECTED_VALUE}` }
    if (before?.kind === 'function' && token.text !== '(' && before.text !== 'noise')
      return { start: before.end, end: before.end, message: `expected ( after ${before.text}` }
  }
  return undefined
}

interface Reading {
  readonly use: FormulaUse
  readonly names: readonly string[]
  readonly assigned: ReadonlySet<string>
  readonly queue: Token[]
  /** Inputs whose last sample is asked for. */
  readonly past: Set<string>
  readonly errors: FormulaError[]
  depth: number
}

/** The name under which an input is kept for `prev`: no text can have it. */
const pastOf = (input: string): string => `=${input}`

const NOTHING: Expression = { kind: 'number', value: 0 }

/** The next word of the text: nodes come in the order of the text, so each takes the next one. */
const nextWord = (reading: Reading): Token =>
  reading.queue.shift() ?? { kind: 'unknown', text: '', start: 0, end: 0 }

const nameOf = (reading: Reading, token: Token): Expression => {
  const { text: name } = token
  const at = { start: token.start, end: token.end }
  if (token.kind === 'reference') {
    if (reading.use === 'module')
      reading.errors.push({
        ...at,
        message: `a formula module hears only its own inputs; connect ${name} to a, b, c or d`,
      })
    return { kind: 'reference', target: name, at }
  }
  if (CONSTANTS.has(name)) return { kind: 'number', value: CONSTANTS.get(name)! }
  if (name === 'noise') return { kind: 'call', name, arguments: [] }
  const known =
    CLOCKS.includes(name) ||
    (reading.use === 'module' && MODULE_INPUTS.includes(name)) ||
    reading.assigned.has(name)
  if (!known) {
    const all = [
      ...(reading.use === 'module' ? MODULE_INPUTS : []),
      ...CLOCKS,
      ...CONSTANTS.keys(),
      ...reading.assigned,
    ]
    const hint = reading.names.includes(name)
      ? `"${name}" has no value yet here; use prev(${name}) for its last one`
      : `there is no "${name}" here; expected ${all.join(', ')}${reading.use === 'field' ? ' or a port such as env.env' : ''}`
    reading.errors.push({ ...at, message: hint })
  }
  return { kind: 'name', name, at }
}

const callOf = (reading: Reading, node: jsep.CallExpression): Expression => {
  const word = nextWord(reading)
  const at = { start: word.start, end: word.end }
  if (word.text === 'prev') {
    const argument = node.arguments[0]
    const name = nextWord(reading)
    if (node.arguments.length !== 1 || argument?.type !== 'Identifier') {
      reading.errors.push({
        ...at,
        message:
          'prev( ) takes one name; give what is meant a name in a statement of its own (v = …) and write prev(v)',
      })
      return NOTHING
    }
    const place = { start: name.start, end: name.end }
    if (reading.use === 'module' && MODULE_INPUTS.includes(name.text)) {
      reading.past.add(name.text)
      return { kind: 'previous', name: pastOf(name.text), at: place }
    }
    if (!reading.names.includes(name.text))
      reading.errors.push({
        ...place,
        message: `"${name.text}" is not assigned anywhere; prev( ) gives the last sample of an assigned name${reading.names.length > 0 ? ` (${reading.names.join(', ')})` : ''}${reading.use === 'module' ? ' or of an input (a, b, c, d, p1, p2, p3, p4)' : ''}`,
      })
    return { kind: 'previous', name: name.text, at: place }
  }
  const known = FUNCTION_NAMES.get(word.text)
  if (!known) {
    reading.errors.push({
      ...at,
      message: `there is no function "${word.text}"; there are ${FUNCTIONS.map((item) => item.name).join(', ')} and prev`,
    })
    return NOTHING
  }
  const values = node.arguments.map((argument) => convert(reading, argument))
  if (values.length !== known.arguments)
    reading.errors.push({
      ...at,
      message: `${known.name} takes ${known.arguments === 0 ? 'no value' : known.arguments === 1 ? 'one value' : `${known.arguments} values`}, found ${values.length}`,
    })
  return { kind: 'call', name: known.name, arguments: values }
}

/** Unary minus binds weaker than ^, `not` weaker than anything but and, or, ?. */
const binds = (unary: string, operator: string): boolean =>
  unary === '-' ? operator === '^' : operator !== 'and' && operator !== 'or'

const convert = (reading: Reading, node: jsep.Expression): Expression => {
  reading.depth += 1
  if (reading.depth > 4 * DEEPEST) {
    if (reading.depth === 4 * DEEPEST + 1)
      reading.errors.push({ start: 0, end: 0, message: 'is nested too deeply' })
    return NOTHING
  }
  const result = convertNode(reading, node)
  reading.depth -= 1
  return result
}

const convertNode = (reading: Reading, node: jsep.Expression): Expression => {
  switch (node.type) {
    case 'Literal':
      return { kind: 'number', value: Number(node['value']) }
    case 'Identifier':
    case 'MemberExpression':
      return nameOf(reading, nextWord(reading))
    case 'Group':
      return { ...convert(reading, node['body'] as jsep.Expression) }
    case 'UnaryExpression': {
      const of = convert(reading, node['argument'] as jsep.Expression)
      return node['operator'] === '+' ? of : { kind: 'unary', operator: node['operator'] as '-' | 'not', of }
    }
    case 'BinaryExpression': {
      const leftNode = node['left'] as jsep.Expression
      const operator = String(node['operator'])
      const left = convert(reading, leftNode),
        right = convert(reading, node['right'] as jsep.Expression)
      // A unary operator the parser bound too tightly moves outwards; one in brackets stays.
      if (left.kind === 'unary' && leftNode.type !== 'Group' && binds(left.operator, operator))
        return {
          kind: 'unary',
          operator: left.operator,
          of: { kind: 'binary', operator, left: left.of, right },
        }
      return { kind: 'binary', operator, left, right }
    }
    case 'ConditionalExpression':
      return {
        kind: 'choice',
        test: convert(reading, node['test'] as jsep.Expression),
        yes: convert(reading, node['consequent'] as jsep.Expression),
        no: convert(reading, node['alternate'] as jsep.Expression),
      }
    case 'CallExpression':
      return callOf(reading, node as unknown as jsep.CallExpression)
    default:
      reading.errors.push({ start: 0, end: 0, message: 'is not one expression' })
      return NOTHING
  }
}

/** The same text with every reference one plain word of the same length, which is all the parser package needs to know. */
const plainText = (text: string, tokens: readonly Token[], from: number, to: number): string => {
  let plain = ''
  let at = from
  for (const token of tokens) {
    plain +=
      text.slice(at, token.start) +
      (token.kind === 'reference' ? '_'.repeat(token.end - token.start) : text.slice(token.start, token.end))
    at = token.end
  }
  return plain + text.slice(at, to)
}

const readExpression = (
  text: string,
  tokens: readonly Token[],
  from: number,
  to: number,
  reading: Reading,
): Expression => {
  const fault = orderError(tokens, to)
  if (fault) {
    reading.errors.push(fault)
    return NOTHING
  }
  let node: jsep.Expression
  try {
    node = grammar(plainText(text, tokens, from, to))
  } catch (error) {
    const index = from + Number((error as { index?: number }).index ?? 0)
    reading.errors.push({
      start: Math.min(index, to),
      end: Math.min(index + 1, to),
      message: String((error as { description?: string }).description ?? 'cannot be read').replace(
        /^./,
        (c) => c.toLowerCase(),
      ),
    })
    return NOTHING
  }
  reading.queue.splice(
    0,
    reading.queue.length,
    ...tokens.filter(
      (token) => token.kind === 'name' || token.kind === 'function' || token.kind === 'reference',
    ),
  )
  return convert(reading, node)
}

/** Does a new line between two tokens end the statement? Not where one of them calls for more. */
const endsLine = (before: Token, after: Token): boolean =>
  isOperand(before) && after.kind !== 'operator' && after.kind !== 'separator' && after.text !== ')'

/** Statements as ranges of tokens: name (of an assignment) and expression. */
const splitStatements = (
  text: string,
  tokens: readonly Token[],
): { name: Token | undefined; body: Token[]; from: number; to: number }[] => {
  const parts: { name: Token | undefined; body: Token[]; from: number; to: number }[] = []
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
  const names = [...new Set(parts.flatMap(({ name }) => (name ? [name.text] : [])))]
  const errors: FormulaError[] = []
  if (names.length > MOST_NAMES)
    errors.push({ start: 0, end: 0, message: `assigns more than ${MOST_NAMES} names` })
  const assigned = new Set<string>()
  const statements: Statement[] = []
  const past = new Set<string>()
  parts.forEach((part, index) => {
    const reading: Reading = { use, names, assigned, queue: [], past, errors, depth: 0 }
    const { name } = part
    const fixed =
      name &&
      (CONSTANTS.has(name.text) ||
        CLOCKS.includes(name.text) ||
        FUNCTION_NAMES.has(name.text) ||
        name.text === 'prev' ||
        (use === 'module' && MODULE_INPUTS.includes(name.text)))
    if (name && fixed)
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
