/** Expressions of formulas: what the parser package reads, in the language's own terms. */
import jsep from 'jsep'
import { CLOCKS, CONSTANTS, DEEPEST, FUNCTION_NAMES, FUNCTIONS, MODULE_INPUTS } from './language.ts'
import { type FormulaError, orderError, type Span, type Token } from './tokens.ts'

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

/** A module's formula assigns names; a field's is one expression that may name ports and parameters. */
export type FormulaUse = 'module' | 'field'

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

export interface Reading {
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
export const pastOf = (input: string): string => `=${input}`

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

export const readExpression = (
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
