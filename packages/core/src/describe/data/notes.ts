/** Notes of a clip, in beats. */
import { listFaults, recordFault, type Fields } from './items.ts'
import type { DataKind } from './kind.ts'

const FIELDS: Fields = {
  start: [0, 1e6, true],
  length: [0, 1e6, true],
  note: [0, 127, true],
  velocity: [0, 1, false],
  layer: [0, 15, false],
}

export const kind: DataKind = {
  kind: 'notes',
  words: 'notes',
  isText: false,
  faults: (data, value) => listFaults(data, value, (item) => recordFault(FIELDS, item)),
  editor: 'list',
}
