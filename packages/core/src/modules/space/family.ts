import type { FamilyDescription } from '../../describe/types.ts'

export const family: FamilyDescription = {
  label: 'Delay and space',
  order: 7,
  mark: 'M2 3v10M6 5v8M10 8v5M14 11v2',
}
