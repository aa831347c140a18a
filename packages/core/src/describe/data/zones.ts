/** Zones of keys and velocities of a sampler. */
import { described } from '../../units/described.ts'
import { own } from '../../units/own.ts'
import { type Fields, listFaults, recordFault } from './items.ts'
import type { DataFault, DataKind } from './kind.ts'

const NUMBERS: Fields = {
  root: [0, 128, false],
  lowKey: [0, 127, false],
  highKey: [0, 127, false],
  lowVelocity: [0, 1, false],
  highVelocity: [0, 1, false],
  start: [0, 1, false],
  end: [0, 1, false],
  loopStart: [0, 1, false],
  loopEnd: [0, 1, false],
  crossfade: [0, 0.5, false],
  tune: [-48, 48, false],
  gain: [-60, 24, false],
  pan: [-1, 1, false],
}
const LOOPS = ['off', 'forward', 'pingpong']

const zoneFault = (item: unknown): DataFault | undefined => {
  const fault = recordFault(NUMBERS, item)
  if (fault) return fault
  const zone = item as Record<string, unknown>,
    asset = own(zone, 'asset'),
    loop = own(zone, 'loop')
  if (asset !== undefined && typeof asset !== 'string')
    return ['.asset', `expected a text, found ${described(asset)}`]
  return loop === undefined || LOOPS.includes(String(loop))
    ? undefined
    : ['.loop', `${described(loop)} is not one of ${LOOPS.join(', ')}`]
}

export const kind: DataKind = {
  kind: 'zones',
  words: 'zones',
  isText: false,
  faults: (data, value) => listFaults(data, value, zoneFault),
  remark: (_data, value, assets) => {
    if (!Array.isArray(value)) return undefined
    const names = value.map((zone: { asset?: unknown } | null) => zone?.asset)
    if (names.length === 0) return 'holds no zone: it is silent'
    const missing = names.find((name) => typeof name !== 'string' || !assets.has(name))
    return missing === undefined && !names.includes(undefined)
      ? undefined
      : `a zone has no recording${typeof missing === 'string' ? ` ("${missing}" is not there)` : ''}: that zone is silent`
  },
  editor: 'zones',
}
