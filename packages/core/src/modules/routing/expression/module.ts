import { help, input, output } from '../../../describe/helpers.ts'
import { INSTANCE_PORTS } from '../../../kernels/abi.ts'
import { MOST_REFERENCES } from '../../../formula/language.ts'
import { parseFormula } from '../../../formula/parse.ts'
import { programOf, operationsIn } from '../../../formula/program.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** The compiler's own: the formula in a field. What it names comes in at i1, i2, … in the order of first mention. */
export const expression: ModuleDescription = {
  type: 'expression',
  family: 'routing',
  label: 'Field formula',
  mark: 'M3 5h10M3 9h10M6 13h4',
  picture: 'signal',
  part: 'expression',
  words: [],
  internal: true,
  help: help('A formula in a field', 'Gives the field its value.', '', ''),
  headline: [],
  inputs: Array.from({ length: MOST_REFERENCES }, (_, n) => input(`i${n + 1}`, 'control')),
  outputs: [output('x', 'control')],
  params: [],
  data: [{ name: 'text', kind: 'text', default: '0' }],
  table: (context) => {
    const parsed = parseFormula(String(context.data('text')), 'field')
    const targets = [...new Set(parsed.references.map((reference) => reference.target))]
    const program = programOf(
      parsed,
      new Map(targets.map((target, index) => [target, INSTANCE_PORTS + 4 * index])),
    )
    return program.ok ? program.table : new Float32Array(8)
  },
  state: { flushed: ['previous*40'] },
  cost: [20, 20, 20],
  costlier: ({ table }) => 1 + 1.5 * operationsIn(table),
  bound: 60,
  sounds: true,
}
