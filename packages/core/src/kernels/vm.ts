/**
 * Codes of the formula machine, shared by the host (TypeScript) and the kernels (AssemblyScript): plain numbers only.
 * A program: 8 words (instructions, constants, uses prev, names, register of x, register of y), then instructions of
 * 8 words (code, target register, operands a, b, c), then constants of 4 floats. Operands: kind << 16 | index.
 */
export const OPERAND_REGISTER = 0
export const OPERAND_CONSTANT = 1
/** Index: byte offset of an input in the instance. */
export const OPERAND_INPUT = 2
export const OPERAND_PREVIOUS = 3
export const OPERAND_SPECIAL = 4
export const SPECIAL_TIME = 0
export const SPECIAL_RATE = 1
export const SPECIAL_VOICE = 2
export const NO_REGISTER = 0xffff
/** Registers: names first, then what is in between. */
export const REGISTERS = 100

export const COPY = 0
export const ADD = 1
export const SUBTRACT = 2
export const MULTIPLY = 3
export const DIVIDE = 4
export const MODULO = 5
export const POWER = 6
export const LESS = 7
export const GREATER = 8
export const AT_MOST = 9
export const AT_LEAST = 10
export const EQUAL = 11
export const DIFFERENT = 12
export const AND = 13
export const OR = 14
export const NOT = 15
export const NEGATE = 16
export const CHOOSE = 17
export const SINE = 18
export const COSINE = 19
export const TANGENT = 20
export const ARCTANGENT = 21
export const EXPONENTIAL = 22
export const LOGARITHM = 23
export const LOGARITHM2 = 24
export const ROOT = 25
export const SIZE = 26
export const SIGNUM = 27
export const FLOOR = 28
export const CEILING = 29
export const ROUND = 30
export const FRACTION = 31
export const LEAST = 32
export const MOST = 33
export const CLAMP = 34
export const BLEND = 35
export const STEP = 36
export const SMOOTH = 37
export const SATURATE = 38
export const NOISE = 39
export const HERTZ = 40
export const PITCH = 41
export const DECIBELS = 42
export const NOTE = 43
export const SQUARE = 44
