import type { FamilyDescription } from '../../describe/types.ts'

export const family: FamilyDescription = { label: 'Sources', order: 2, mark: 'M1 11 7 4v7l6-7v7' }
