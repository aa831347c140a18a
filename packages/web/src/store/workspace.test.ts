import { expect, it } from 'vitest'
import { createWorkspaceStore, isShown } from './workspace.ts'

const store = () =>
  createWorkspaceStore({ read: () => null, write: () => true, remove: () => undefined } as never)

it('a panel that is closed, folded, or both is shown by one press, and gone by the next', () => {
  for (const folded of [[], ['dock'] as const])
    for (const dock of [true, false]) {
      const workspace = store()
      if (!dock) workspace.getState().togglePanel('dock')
      workspace.getState().fold(folded)
      const before = isShown(workspace.getState(), 'dock')
      workspace.getState().togglePanel('dock')
      expect(isShown(workspace.getState(), 'dock')).toBe(!before)
      workspace.getState().togglePanel('dock')
      expect(isShown(workspace.getState(), 'dock')).toBe(before)
    }
})
