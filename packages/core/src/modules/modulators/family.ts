import type { FamilyDescription } from '../../describe/types.ts'

export const family: FamilyDescription = {
  label: 'Envelopes and modulators',
  order: 5,
  mark: 'M1 8c2-6 5-6 7 0s5 6 7 0',
}
