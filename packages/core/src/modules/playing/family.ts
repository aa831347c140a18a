import type { FamilyDescription } from '../../describe/types.ts'

export const family: FamilyDescription = { label: 'Playing and time', order: 1, mark: 'M1 11h4V4h5v7h5' }
