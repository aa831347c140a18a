/** The list of everything kept, as lists and menus show it. */
import { createStore, type StoreApi } from 'zustand'
import { failureWords } from '../kept/database.ts'
import type { Documents } from '../kept/documents.ts'
import type { Head } from '../kept/records.ts'

/** Room in the browser, in bytes. */
export interface Space {
  readonly used: number
  readonly quota: number
}

export interface DocumentsState {
  /** Those used last first; what is put aside as well. */
  readonly heads: readonly Head[]
  readonly space: Space | undefined
  /** Why the list could not be read. */
  readonly failure: string | undefined
  /** Reads the list anew. */
  refresh(): Promise<void>
}
export type DocumentsStore = StoreApi<DocumentsState>

const spaceNow = async (): Promise<Space | undefined> => {
  const { usage, quota } = (await navigator.storage?.estimate().catch(() => undefined)) ?? {}
  return usage === undefined || quota === undefined ? undefined : { used: usage, quota }
}

/** From here on it is said that room runs out. */
const NEARLY_FULL = 0.85

/** What could go when there is little room left; undefined while there is enough. */
export const roomWords = ({ space, heads }: Pick<DocumentsState, 'space' | 'heads'>): string | undefined => {
  if (!space || space.quota === 0 || space.used / space.quota < NEARLY_FULL) return undefined
  const aside = heads.filter((head) => head.putAside !== undefined).length,
    takes = heads.filter((head) => head.kind === 'take').length
  const could = [
    ...(aside > 0 ? [`${aside} put aside`] : []),
    ...(takes > 0 ? [`${takes} ${takes === 1 ? 'take' : 'takes'}`] : []),
  ]
  return could.length > 0
    ? `What could go: ${could.join(', ')}. See Devices, or export what you want to keep.`
    : 'Export what you want to keep, and delete other data of this browser.'
}

export const createDocumentsStore = (documents: Documents): DocumentsStore => {
  // Each call reads what was written before it; what an earlier one still brings is old by then.
  let latest = 0
  const store: DocumentsStore = createStore<DocumentsState>()((set) => ({
    heads: [],
    space: undefined,
    failure: undefined,
    async refresh() {
      latest += 1
      const mine = latest
      try {
        const heads = await documents.heads()
        if (mine !== latest) return
        set({ heads, failure: undefined })
        const space = await spaceNow()
        if (mine === latest) set({ space })
      } catch (error) {
        if (mine === latest) set({ failure: failureWords(error) })
      }
    },
  }))
  return store
}

/** Patches for menus: not put aside, those used last first. */
export const latestPatches = (heads: readonly Head[], most: number): readonly Head[] =>
  heads.filter((head) => head.kind === 'patch' && head.putAside === undefined).slice(0, most)
