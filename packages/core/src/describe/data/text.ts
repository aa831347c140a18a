/** The text of a formula. */
import { errorText, parseFormula } from '../../formula/parse.ts'
import { described } from '../../units/described.ts'
import type { DataKind } from './kind.ts'

export const kind: DataKind = {
  kind: 'text',
  words: 'a formula',
  isText: true,
  faults: (_data, value) =>
    typeof value === 'string'
      ? parseFormula(value, 'module')
          .errors.slice(0, 1)
          .map((error) => ['', errorText(error)] as const)
      : [['', `expected a text, found ${described(value)}`]],
  remark: (_data, value) => {
    if (typeof value !== 'string') return undefined
    const { names, errors, statements } = parseFormula(value, 'module')
    const assigns = statements.some(({ name }) => name === 'x' || name === 'y')
    return errors.length === 0 && !assigns
      ? `assigns ${names.join(', ') || 'nothing'}, but neither x nor y: both outputs are 0`
      : undefined
  },
  editor: 'formula',
}
