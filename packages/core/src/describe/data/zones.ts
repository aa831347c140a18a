/** Zones of keys and velocities of a sampler. */
import { listFaults, recordFault } from './items.ts'
import type { DataKind } from './kind.ts'

export const kind: DataKind = {
  kind: 'zones',
  words: 'zones',
  isText: false,
  faults: (data, value) => listFaults(data, value, (item) => recordFault({}, item)),
  editor: 'list',
}
