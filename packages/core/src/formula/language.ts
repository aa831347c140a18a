/** The words of the formula language; parser, compiler, help and completion read this one list. */
export interface FunctionWord {
  readonly name: string
  readonly arguments: number
  readonly does: string
}

const row = (name: string, count: number, does: string): FunctionWord => ({ name, arguments: count, does })

/** Every function gives 0 where it has no value: log(0), sqrt(-1), 1 / 0. */
export const FUNCTIONS: readonly FunctionWord[] = [
  row('sin', 1, 'sine of an angle in radians'),
  row('cos', 1, 'cosine of an angle in radians'),
  row('tan', 1, 'tangent of an angle in radians'),
  row('atan', 1, 'arc tangent, in radians'),
  row('exp', 1, 'e to the power of x'),
  row('log', 1, 'natural logarithm'),
  row('log2', 1, 'logarithm to base 2'),
  row('sqrt', 1, 'square root'),
  row('abs', 1, 'size without sign'),
  row('sign', 1, '-1, 0 or 1'),
  row('floor', 1, 'next whole number below'),
  row('ceil', 1, 'next whole number above'),
  row('round', 1, 'nearest whole number, halves up'),
  row('fract', 1, 'x - floor(x)'),
  row('mod', 2, 'what is left of a after whole b, with the sign of b; the same as a % b'),
  row('min', 2, 'the smaller'),
  row('max', 2, 'the larger'),
  row('clamp', 3, 'x within low and high'),
  row('mix', 3, 'from a (t = 0) to b (t = 1)'),
  row('step', 2, '0 below the edge, 1 from it on: step(edge, x)'),
  row('smooth', 3, 'an S from 0 at low to 1 at high: smooth(low, high, x)'),
  row('tanh', 1, 'soft limit to ±1'),
  row('noise', 0, 'white noise within ±1, each mention its own'),
  row('hz', 1, 'frequency of a pitch in octaves from C4'),
  row('pitch', 1, 'octaves from C4 of a frequency'),
  row('db', 1, 'decibels of a level'),
  row('note', 1, 'pitch in octaves of a note number, 60 = C4'),
]

export const FUNCTION_NAMES: ReadonlyMap<string, FunctionWord> = new Map(
  FUNCTIONS.map((word) => [word.name, word]),
)

/** Names with a fixed meaning. `t` seconds since the start, `sr` frames per second, `voice` 0, 1, 2… */
export const CONSTANTS: ReadonlyMap<string, number> = new Map([
  ['pi', Math.PI],
  ['tau', 2 * Math.PI],
])
export const CLOCKS: readonly string[] = ['t', 'sr', 'voice']
/** What the formula module's own inputs and fields are called. */
export const MODULE_INPUTS: readonly string[] = ['a', 'b', 'c', 'd', 'p1', 'p2', 'p3', 'p4']
export const OUTPUTS: readonly string[] = ['x', 'y']
export const WORD_OPERATORS: readonly string[] = ['and', 'or', 'not']

export const LONGEST_TEXT = 4096
export const MOST_OPERATIONS = 512
export const DEEPEST = 64
export const MOST_NAMES = 32
/** Ports and parameters one field formula may name. */
export const MOST_REFERENCES = 16
