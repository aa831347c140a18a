import type { FamilyDescription } from '../../describe/types.ts'

export const family: FamilyDescription = { label: 'Filters', order: 3, mark: 'M1 5h6c3 0 4 2 6 7' }
