import type { FamilyDescription } from '../../describe/types.ts'

export const family: FamilyDescription = {
  label: 'Looking',
  order: 8,
  mark: 'M1 12h14M1 12V3M3 9l4-4 3 3 4-5',
}
