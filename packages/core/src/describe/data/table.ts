/** The name of a table: built in, or one the patch brings along. */
import { described } from '../../units/described.ts'
import type { DataKind } from './kind.ts'

export const kind: DataKind = {
  kind: 'table',
  words: 'a table',
  isText: true,
  faults: (_data, value) =>
    typeof value === 'string' ? [] : [['', `expected a text, found ${described(value)}`]],
  remark: (data, value, assets) =>
    typeof value === 'string' && !data.builtIn?.includes(value) && !assets.has(value)
      ? `there is no table "${value}": it is silent. Built in are ${(data.builtIn ?? []).join(', ')}`
      : undefined,
  editor: 'table',
}
