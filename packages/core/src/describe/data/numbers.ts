import { described } from '../../units/described.ts'
import { listFaults } from './items.ts'
import type { DataKind } from './kind.ts'

export const kind: DataKind = {
  kind: 'numbers',
  words: 'numbers',
  isText: false,
  faults: (data, value) =>
    listFaults(data, value, (item) => {
      if (typeof item !== 'number' || !Number.isFinite(item))
        return ['', `expected a number, found ${described(item)}`]
      if (data.min !== undefined && item < data.min) return ['', `${item} is below ${data.min}`]
      return data.max !== undefined && item > data.max ? ['', `${item} is above ${data.max}`] : undefined
    }),
  editor: 'list',
}
