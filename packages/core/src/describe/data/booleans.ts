import { described } from '../../units/described.ts'
import { listFaults } from './items.ts'
import type { DataKind } from './kind.ts'

export const kind: DataKind = {
  kind: 'booleans',
  words: 'on or off',
  isText: false,
  faults: (data, value) =>
    listFaults(data, value, (item) =>
      typeof item === 'boolean' || item === 0 || item === 1
        ? undefined
        : ['', `expected true or false, found ${described(item)}`],
    ),
  editor: 'switches',
}
