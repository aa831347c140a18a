/** Points of a drawn curve; times of contours stand in t and v. */
import { listFaults, recordFault, type Fields } from './items.ts'
import type { DataKind } from './kind.ts'

const FIELDS: Fields = {
  t: [0, 1e6, false],
  x: [-1e6, 1e6, false],
  v: [-10, 10, false],
  y: [-1e6, 1e6, false],
  curve: [-1, 1, false],
}

export const kind: DataKind = {
  kind: 'points',
  words: 'points',
  isText: false,
  faults: (data, value) => listFaults(data, value, (item) => recordFault(FIELDS, item)),
  editor: 'list',
}
