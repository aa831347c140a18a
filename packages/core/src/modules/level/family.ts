import type { FamilyDescription } from '../../describe/types.ts'

export const family: FamilyDescription = { label: 'Level and waveshape', order: 4, mark: 'M3 3v10l10-5z' }
