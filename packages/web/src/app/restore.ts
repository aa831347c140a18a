/** A version of a patch comes back. */
import type { Patch } from '@ypsilon/core'
import type { DocumentStore } from '../store/document.ts'

/** Takes every field back to what a version holds: one step, which undo takes back. */
export const restoreVersion = (
  document: DocumentStore,
  { name, patch }: { readonly name: string; readonly patch: Patch },
): void => {
  document.getState().change(`Restore ${name}`, (draft) => {
    for (const field of Object.keys(draft)) if (!(field in patch)) Reflect.deleteProperty(draft, field)
    Object.assign(draft, patch)
  })
}
