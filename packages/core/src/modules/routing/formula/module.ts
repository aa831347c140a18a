import { help, input, number, output } from '../../../describe/helpers.ts'
import { INSTANCE_PORTS } from '../../../kernels/abi.ts'
import { MODULE_INPUTS } from '../../../formula/language.ts'
import { parseFormula } from '../../../formula/parse.ts'
import { programOf, operationsIn } from '../../../formula/program.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Byte offsets of a, b, c, d, p1 … p4: inputs stand first in an instance, in the order of the description. */
const offsets: ReadonlyMap<string, number> = new Map(
  MODULE_INPUTS.map((name, index) => [name, INSTANCE_PORTS + 4 * index]),
)

export const formula: ModuleDescription = {
  type: 'formula',
  family: 'routing',
  label: 'Formula',
  mark: 'M10 2c-3 0-3 2-3 5s0 7-4 7M4 7h6M10 9l4 5M14 9l-4 5',
  words: ['maths', 'expression', 'calculate', 'own module', 'script', 'per sample'],
  help: help(
    'Computes x and y from a, b, c and d for every sample',
    'Statements such as x = a * p1; y = sin(tau * b). prev(name) is the last sample of any name, so filters and oscillators can be written: ph = fract(prev(ph) + hz(a) / sr); x = 2 * ph - 1. Operators + - * / % ^, comparisons, and, or, not, cond ? this : that. Names a b c d p1 p2 p3 p4 pi tau t sr voice. What has no value, such as 1 / 0, is 0.',
    'p1…p4 −10…10 by hand or by cable.',
    'Write x = tanh(a * p1) and move p1.',
  ),
  front: ['a', 'b', 'x'],
  headline: ['p1', 'p2'],
  inputs: ['a', 'b', 'c', 'd'].map((name) => input(name, 'audio')),
  outputs: [output('x', 'audio'), output('y', 'audio')],
  params: [1, 2, 3, 4].map((n) => number(`p${n}`, -10, 10, 0, '', { label: `P${n}` })),
  picture: 'signal',
  editor: { kind: 'formula' },
  data: [{ name: 'text', kind: 'text', default: 'x = a' }],
  table: (context) => {
    const program = programOf(parseFormula(String(context.data('text')), 'module'), offsets)
    return program.ok ? program.table : new Float32Array(8)
  },
  state: { flushed: ['previous*40'] },
  cost: [20, 20, 20],
  // A row of its table for every operation.
  costlier: ({ table }) => 1 + 1.5 * operationsIn(table),
  bound: 8.4,
  sounds: true,
}
