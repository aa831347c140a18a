import type { FamilyDescription } from '../../describe/types.ts'

export const family: FamilyDescription = {
  label: 'Maths and routing',
  order: 6,
  mark: 'M1 4h4l4 8h6M1 12h4l1-2',
}
