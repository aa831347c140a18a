import { DEEPEST, MOST_OPERATIONS } from './language.ts'
import type { Expression, FormulaError, ParsedFormula } from './parse.ts'
import * as vm from '../kernels/vm.ts'
import { own } from '../units/own.ts'

/** A program for the engine's vector machine (kernels/vm.ts): plain words. */
export type ProgramResult =
  | { readonly ok: true; readonly table: Float32Array }
  | { readonly ok: false; readonly errors: readonly FormulaError[] }

const BINARY: Readonly<Record<string, number>> = {
  '+': vm.ADD,
  '-': vm.SUBTRACT,
  '*': vm.MULTIPLY,
  '/': vm.DIVIDE,
  '%': vm.MODULO,
  '^': vm.POWER,
  '<': vm.LESS,
  '>': vm.GREATER,
  '<=': vm.AT_MOST,
  '>=': vm.AT_LEAST,
  '==': vm.EQUAL,
  '!=': vm.DIFFERENT,
  and: vm.AND,
  or: vm.OR,
}
const SPECIALS: ReadonlyMap<string, number> = new Map([
  ['t', vm.SPECIAL_TIME],
  ['sr', vm.SPECIAL_RATE],
  ['voice', vm.SPECIAL_VOICE],
])
const CALLS: Readonly<Record<string, number>> = {
  sin: vm.SINE,
  cos: vm.COSINE,
  tan: vm.TANGENT,
  atan: vm.ARCTANGENT,
  exp: vm.EXPONENTIAL,
  log: vm.LOGARITHM,
  log2: vm.LOGARITHM2,
  sqrt: vm.ROOT,
  abs: vm.SIZE,
  sign: vm.SIGNUM,
  floor: vm.FLOOR,
  ceil: vm.CEILING,
  round: vm.ROUND,
  fract: vm.FRACTION,
  mod: vm.MODULO,
  min: vm.LEAST,
  max: vm.MOST,
  clamp: vm.CLAMP,
  mix: vm.BLEND,
  step: vm.STEP,
  smooth: vm.SMOOTH,
  tanh: vm.SATURATE,
  noise: vm.NOISE,
  hz: vm.HERTZ,
  pitch: vm.PITCH,
  db: vm.DECIBELS,
  note: vm.NOTE,
}

const operand = (kind: number, index: number): number => ((kind << 16) | index) >>> 0

class Writer {
  readonly instructions: number[][] = []
  private readonly constants: number[] = []
  private readonly variables = new Map<string, number>()
  private depth = 0
  private noises = 0
  usesPrevious = false
  deepest = 0

  constructor(
    private readonly names: readonly string[],
    private readonly inputs: ReadonlyMap<string, number>,
  ) {
    names.forEach((name, index) => this.variables.set(name, index))
  }

  private constant(value: number): number {
    let index = this.constants.findIndex((known) => Object.is(known, value))
    if (index < 0) index = this.constants.push(value) - 1
    return operand(vm.OPERAND_CONSTANT, index)
  }

  private emit(code: number, target: number, a = 0, b = 0, c = 0): number {
    this.instructions.push([code, target, a, b, c, 0, 0, 0])
    return operand(vm.OPERAND_REGISTER, target)
  }

  /** A register above the named ones, for what is in between; freed when the depth falls again. */
  private temporary(): number {
    this.depth += 1
    this.deepest = Math.max(this.deepest, this.depth)
    return this.names.length + this.depth - 1
  }

  private value(expression: Expression): number {
    switch (expression.kind) {
      case 'number':
        return this.constant(expression.value)
      case 'name':
        return this.named(expression.name)
      case 'reference':
        return operand(vm.OPERAND_INPUT, this.inputs.get(expression.target)!)
      case 'previous':
        this.usesPrevious = true
        return operand(vm.OPERAND_PREVIOUS, this.variables.get(expression.name)!)
      case 'unary':
        return this.apply(expression.operator === '-' ? vm.NEGATE : vm.NOT, [expression.of])
      case 'binary':
        return this.binary(expression)
      case 'choice':
        return this.apply(vm.CHOOSE, [expression.test, expression.yes, expression.no])
      case 'call':
        return this.call(expression)
    }
  }

  private named(name: string): number {
    const special = SPECIALS.get(name)
    if (special !== undefined) return operand(vm.OPERAND_SPECIAL, special)
    return this.variables.has(name)
      ? operand(vm.OPERAND_REGISTER, this.variables.get(name)!)
      : operand(vm.OPERAND_INPUT, this.inputs.get(name)!)
  }

  private binary({ operator, left, right }: Extract<Expression, { kind: 'binary' }>): number {
    const power = operator === '^' && right.kind === 'number' ? right.value : undefined
    if (power === 2) return this.apply(vm.SQUARE, [left])
    if (power === 0.5) return this.apply(vm.ROOT, [left])
    return this.apply(own(BINARY, operator)!, [left, right])
  }

  private call(expression: Extract<Expression, { kind: 'call' }>): number {
    if (expression.name !== 'noise') return this.apply(own(CALLS, expression.name)!, expression.arguments)
    this.noises += 1
    return this.apply(vm.NOISE, [], this.constant(this.noises))
  }

  private apply(code: number, values: readonly Expression[], extra = 0): number {
    const before = this.depth
    const [a = extra, b = 0, c = 0] = values.map((value) => this.value(value))
    this.depth = before
    return this.emit(code, this.temporary(), a, b, c)
  }

  assign(name: string, expression: Expression): void {
    this.depth = 0
    this.emit(vm.COPY, this.variables.get(name)!, this.value(expression))
  }

  table(): Float32Array {
    const head = [
      this.instructions.length,
      this.constants.length,
      this.usesPrevious ? 1 : 0,
      this.names.length,
      this.variables.get('x') ?? vm.NO_REGISTER,
      this.variables.get('y') ?? vm.NO_REGISTER,
      0,
      0,
    ]
    const words = head.length + this.instructions.length * 8 + this.constants.length * 4
    const table = new Float32Array(words)
    const whole = new Uint32Array(table.buffer)
    whole.set(head)
    this.instructions.forEach((instruction, index) => whole.set(instruction, head.length + index * 8))
    this.constants.forEach((value, index) =>
      table.fill(
        value,
        head.length + this.instructions.length * 8 + index * 4,
        head.length + this.instructions.length * 8 + index * 4 + 4,
      ),
    )
    return table
  }
}

/** Turns a parsed formula into words for the engine. `inputs`: byte offset in the instance of every name it may hear. */
export const programOf = (parsed: ParsedFormula, inputs: ReadonlyMap<string, number>): ProgramResult => {
  if (parsed.errors.length > 0) return { ok: false, errors: parsed.errors }
  const names = [...new Set(parsed.statements.map((statement) => statement.name))]
  const writer = new Writer(names, inputs)
  for (const { name, value } of parsed.statements) writer.assign(name, value)
  if (writer.instructions.length > MOST_OPERATIONS)
    return {
      ok: false,
      errors: [
        {
          start: 0,
          end: 0,
          message: `has ${writer.instructions.length} operations, more than ${MOST_OPERATIONS}`,
        },
      ],
    }
  if (writer.deepest > DEEPEST)
    return { ok: false, errors: [{ start: 0, end: 0, message: 'is nested too deeply' }] }
  return { ok: true, table: writer.table() }
}

/** How many operations a program in words has. */
export const operationsIn = (table: Float32Array | undefined): number =>
  table && table.length > 0 ? new Uint32Array(table.buffer, table.byteOffset, 1)[0]! : 0
