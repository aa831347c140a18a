/** Steps that the store has not confirmed yet, kept where they are at once and outlive the page. */
import type { Notebook } from './database.ts'
import type { NumberedStep, PatchBody } from './records.ts'

/** Characters that may stand in the browser's notebook for one document. */
export const MOST_MIRRORED = 256 * 1024

const PREFIX = 'ypsilon-steps/'

/** What stands in the notebook: a whole only until the store has one. */
export interface Mirrored {
  readonly body?: PatchBody
  /** By number. */
  readonly steps: readonly NumberedStep[]
}

const keyOf = (id: string, revision: number): string => `${PREFIX}${id}/${revision}`

/** Writes what is not confirmed; false when it has no room there. */
export const writeMirror = (
  notebook: Notebook,
  id: string,
  revision: number,
  { body, steps }: Mirrored,
): boolean => {
  if (!body && steps.length === 0) {
    notebook.erase(keyOf(id, revision))
    return true
  }
  const text = JSON.stringify({ body, steps })
  if (text.length <= MOST_MIRRORED && notebook.write(keyOf(id, revision), text)) return true
  // Half of it would be worse than none: steps are replayed without gaps.
  notebook.erase(keyOf(id, revision))
  return false
}

export const readMirror = (notebook: Notebook, id: string, revision: number): Mirrored => {
  const text = notebook.read(keyOf(id, revision))
  if (text === null) return { steps: [] }
  try {
    return JSON.parse(text) as Mirrored
  } catch {
    return { steps: [] }
  }
}

export const eraseMirrors = (notebook: Notebook, id: string): void => {
  for (const key of notebook.keys()) if (key.startsWith(`${PREFIX}${id}/`)) notebook.erase(key)
}

/** Documents that have something in the notebook. */
export const mirroredIds = (notebook: Notebook): { readonly id: string; readonly revision: number }[] =>
  notebook.keys().flatMap((key) => {
    const [id, revision] = key.startsWith(PREFIX) ? key.slice(PREFIX.length).split('/') : []
    return id === undefined || revision === undefined ? [] : [{ id, revision: Number(revision) }]
  })
