import {
  checkPatch,
  type Change,
  edit,
  emptyPatch,
  EMPTY_HISTORY,
  faultText,
  type History,
  parsePatch,
  type Patch,
  placed,
  record,
  redo,
  undo,
  withCableIds,
} from '@ypsilon/core'
import type { Draft } from 'immer'
import localforage from 'localforage'
import { toast } from 'sonner'
import { create } from 'zustand'
import { engine } from '../audio/engine-client.ts'

const storage = localforage.createInstance({ name: 'ypsilon', storeName: 'bench' })
const PREFIX = 'bench-'
/** Benches of other tabs and earlier visits that are kept. */
const KEPT = 12

/** Every tab keeps its own bench, so that two tabs never overwrite each other; a reload finds its own again. */
const tabKey = (): string => {
  let id = sessionStorage.getItem('ypsilon-tab')
  if (id === null) {
    id = crypto.randomUUID()
    sessionStorage.setItem('ypsilon-tab', id)
  }
  return PREFIX + id
}

interface Stored {
  readonly patch: unknown
  readonly at: number
}

/** Everything kept, newest first. */
const benches = async (): Promise<(Stored & { readonly key: string })[]> => {
  const keys = (await storage.keys()).filter((key) => key.startsWith(PREFIX))
  const found = await Promise.all(
    keys.map(async (key) => ({ key, ...(await storage.getItem<Stored>(key))! })),
  )
  return found.sort((a, b) => b.at - a.at)
}
const AUTOSAVE_MS = 400

export type Saved =
  | { readonly kind: 'kept'; readonly at: number }
  | { readonly kind: 'changed' }
  | { readonly kind: 'failed'; readonly message: string }

interface DocumentState {
  readonly patch: Patch
  readonly history: History
  readonly saved: Saved
  /** Counts opened patches, so that views can show a new one whole. */
  readonly opened: number
  /** Applies an edit; false when it was refused. Edits of one gesture undo together. */
  change(name: string, recipe: (draft: Draft<Patch>) => void, gesture?: string): boolean
  undo(): void
  redo(): void
  /** Replaces the document (new patch, demo, file); can be undone back to nothing only by opening again. */
  open(patch: Patch): void
  /** Opens a file's text; a bad file leaves the present patch untouched. */
  openText(text: string, name: string): boolean
}

export const useDocument = create<DocumentState>()((set, get) => ({
  patch: emptyPatch(),
  history: EMPTY_HISTORY,
  saved: { kind: 'kept', at: 0 },
  opened: 0,
  change(name, recipe, gesture) {
    const { patch, history } = get()
    const result = edit(patch, name, recipe, gesture === undefined ? {} : { gesture })
    if (!result.ok) {
      toast.error(`${name}: ${result.faults.map(faultText).join('; ')}`)
      return false
    }
    if (result.patch === patch) return true
    adopt(set, result.patch, record(history, result.change))
    return true
  },
  undo() {
    step(set, get, undo)
  },
  redo() {
    step(set, get, redo)
  },
  open(patch) {
    set({ opened: get().opened + 1 })
    adopt(set, placed(withCableIds(patch)), EMPTY_HISTORY)
  },
  openText(text, name) {
    const result = parsePatch(text)
    if (!result.ok) {
      const shown = result.faults.slice(0, 6).map(faultText)
      const more = result.faults.length - shown.length
      toast.error(`${name} was not opened; your patch is unchanged.`, {
        description: [...shown, ...(more > 0 ? [`… and ${more} more`] : [])].join('\n'),
        duration: 20000,
      })
      return false
    }
    for (const warning of result.warnings) toast.warning(faultText(warning))
    get().open(result.value)
    return true
  },
}))

type Set = (state: Partial<DocumentState>) => void
const adopt = (set: Set, patch: Patch, history: History): void => {
  set({ patch, history, saved: { kind: 'changed' } })
  engine.setPatch(patch)
  schedule()
}

const step = (
  set: Set,
  get: () => DocumentState,
  move: (patch: Patch, history: History) => { patch: Patch; history: History; change: Change } | undefined,
): void => {
  const { patch, history } = get()
  const result = move(patch, history)
  if (result) adopt(set, result.patch, result.history)
}

let timer: ReturnType<typeof setTimeout> | undefined
const schedule = (): void => {
  clearTimeout(timer)
  timer = setTimeout(() => {
    void save()
  }, AUTOSAVE_MS)
}

const save = async (): Promise<void> => {
  const { patch } = useDocument.getState()
  try {
    await storage.setItem(tabKey(), { patch, at: Date.now() })
    if (useDocument.getState().patch === patch)
      useDocument.setState({ saved: { kind: 'kept', at: Date.now() } })
  } catch (error) {
    useDocument.setState({
      saved: {
        kind: 'failed',
        message: `Not kept: ${error instanceof Error ? error.message : String(error)}. Export the patch as a file.`,
      },
    })
  }
}

/** Brings back what was on this tab's bench, or the newest there is; false when there was nothing. */
export const restore = async (): Promise<boolean> => {
  try {
    const all = await benches()
    for (const old of all.slice(KEPT)) await storage.removeItem(old.key)
    const stored = all.find((item) => item.key === tabKey()) ?? all[0]
    if (!stored) return false
    const result = checkPatch(stored.patch)
    if (!result.ok) {
      await storage.setItem(`damaged-${Date.now()}`, stored)
      await storage.removeItem(stored.key)
      toast.error('What was on the bench could not be read. It is put aside, not deleted.', {
        description: result.faults.slice(0, 3).map(faultText).join('\n'),
      })
      return false
    }
    useDocument.getState().open(result.value)
    return true
  } catch {
    toast.error('This browser does not let the page keep anything. Export patches as files.')
    return false
  }
}

if (typeof window !== 'undefined') {
  const flush = (): void => {
    if (useDocument.getState().saved.kind === 'changed') void save()
  }
  window.addEventListener('pagehide', flush)
  document.addEventListener('visibilitychange', flush)
}
