import {
  checkPatch,
  type Change,
  compile,
  edit,
  emptyPatch,
  EMPTY_HISTORY,
  everyModule,
  type Fault,
  faultText,
  type History,
  keepAsSet,
  leftMoved,
  mib,
  type Moves,
  movesChange,
  NO_MOVES,
  oneLine,
  overlayOf,
  parsePatch,
  type Patch,
  placed,
  record,
  redo,
  type Result,
  undo,
  withCableIds,
} from '@ypsilon/core'
import type { Draft } from 'immer'
import localforage from 'localforage'
import { toast } from 'sonner'
import { create } from 'zustand'
import { engine } from '../audio/engine-client.ts'
import { audioAssets, loadAudio } from '../files/audio-store.ts'
import { exportText } from '../files/export.ts'

const storage = localforage.createInstance({ name: 'ypsilon', storeName: 'bench' })
const PREFIX = 'bench-'
/** Benches of other tabs and earlier visits that are kept. */
const KEPT = 12

/** Every tab keeps its own bench, so that two tabs never overwrite each other; a reload finds its own again. */
const tabKey = (): string => {
  try {
    let id = sessionStorage.getItem('ypsilon-tab')
    if (id === null) {
      id = crypto.randomUUID()
      sessionStorage.setItem('ypsilon-tab', id)
    }
    return PREFIX + id
  } catch {
    // Where nothing may be kept, not even a tab has a name.
    return `${PREFIX}unnamed`
  }
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

/** A patch on its way to the bench: what is said meanwhile. */
export interface Opening {
  readonly name: string
  readonly words: string
}

interface DocumentState {
  readonly patch: Patch
  readonly history: History
  readonly saved: Saved
  readonly opening: Opening | undefined
  /** Counts opened patches, so that views can show a new one whole. */
  readonly opened: number
  /** Applies an edit; false when it was refused. Edits of one gesture undo together. */
  change(name: string, recipe: (draft: Draft<Patch>) => void, gesture?: string): boolean
  /** Notes a move of a hand as a step that undo takes back; the document stays as it is. */
  moved(name: string, before: Moves, after: Moves): void
  /** Writes what was moved into the document. */
  keepAsSet(): void
  /** Takes what was moved back to what is set. */
  backToSet(): void
  undo(): void
  redo(): void
  /**
   * Replaces the document (new patch, demo, file); one that cannot be played is refused and leaves it as it is. False
   * when it was refused.
   */
  open(patch: Patch): Promise<boolean>
  /** Opens a file's text; a bad file leaves the present patch untouched. */
  openText(text: string, name: string): Promise<boolean>
  /** Opens what was read from a file; the same for what could not be read. */
  openResult(result: Result<Patch>, name: string): Promise<boolean>
}

/** A patch of more modules is said to be opening before it is looked at. */
const LARGE = 150
const SHOWN_FAULTS = 6
/** Pictures until a large patch stands still on the chart. */
const SETTLING = 4

const refuse = (name: string, faults: readonly Fault[]): void => {
  const more = faults.length - SHOWN_FAULTS
  toast.error(`${oneLine(name)} was not opened; your patch is unchanged.`, {
    description: [
      ...faults.slice(0, SHOWN_FAULTS).map(faultText),
      ...(more > 0 ? [`… and ${more} more`] : []),
    ].join('\n'),
    duration: 20000,
  })
}

/** Resolves when what was set before is on the screen. */
const shown = (): Promise<void> =>
  new Promise((resolve) => {
    // A hidden page draws nothing: it does not wait for that.
    const timer = setTimeout(resolve, 100)
    requestAnimationFrame(() =>
      setTimeout(() => {
        clearTimeout(timer)
        resolve()
      }),
    )
  })

/** Counts what was chosen to be opened: the last choice holds. */
let latest = 0
/** Memory from which on a patch says what it takes. */
const MUCH_MEMORY = 32 * 2 ** 20

export const useDocument = create<DocumentState>()((set, get) => ({
  patch: emptyPatch(),
  history: EMPTY_HISTORY,
  saved: { kind: 'kept', at: 0 },
  opening: undefined,
  opened: 0,
  change(name, recipe, gesture) {
    // What a hand has moved before it is a step before it.
    engine.restHand()
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
  moved(name, before, after) {
    set({ history: record(get().history, movesChange(name, before, after)) })
  },
  keepAsSet() {
    engine.restHand()
    const before = engine.moves()
    const { patch, history } = get()
    const result = edit(patch, 'Keep as set', (draft) => {
      keepAsSet(draft, overlayOf(before))
    })
    if (!result.ok) {
      toast.error(`Keep as set: ${result.faults.map(faultText).join('; ')}`)
      return
    }
    const after = leftMoved(result.patch, before)
    const change = { ...result.change, moves: { before, after } }
    adopt(set, result.patch, record(history, change), after)
  },
  backToSet() {
    engine.restHand()
    const before = engine.moves()
    get().moved('Back to set', before, NO_MOVES)
    engine.setPatch(get().patch, NO_MOVES)
  },
  undo() {
    step(set, get, 'before', undo)
  },
  redo() {
    step(set, get, 'after', redo)
  },
  async open(patch) {
    const name = patch.name || 'Untitled',
      count = everyModule(patch).length
    latest += 1
    const mine = latest
    /** Says what is going on; false when another patch has been chosen meanwhile. */
    const say = async (words: string): Promise<boolean> => {
      set({ opening: { name, words } })
      await shown()
      return mine === latest
    }
    try {
      if (count > LARGE && !(await say(`${count} modules`))) return false
      const ready = placed(withCableIds(patch))
      const result = compile(ready, { sampleRate: engine.sampleRate })
      if (!result.ok) {
        refuse(name, result.faults)
        return false
      }
      const { memoryBytes } = result.plan
      if (memoryBytes > MUCH_MEMORY && !(await say(`${count} modules, ${mib(memoryBytes)} of memory`)))
        return false
      beginOpening(ready)
      set({ opened: get().opened + 1, patch: ready, history: EMPTY_HISTORY, saved: { kind: 'changed' } })
      engine.openPatch(ready)
      schedule()
      // The chart lays its cables when the cards stand, and fits the view after that.
      if (get().opening) for (let n = 0; n < SETTLING; n += 1) await shown()
      void shown().then(endOpening)
    } finally {
      if (mine === latest && get().opening) set({ opening: undefined })
    }
    void bringAudio(patch)
    return true
  },
  async openText(text, name) {
    if (text.length > LARGE_TEXT) {
      set({ opening: { name, words: 'reading' } })
      await shown()
    }
    try {
      return await get().openResult(parsePatch(text), name)
    } finally {
      if (get().opening) set({ opening: undefined })
    }
  },
  async openResult(result, name) {
    if (!result.ok) {
      refuse(name, result.faults)
      return false
    }
    for (const warning of result.warnings.slice(0, SHOWN_FAULTS)) toast.warning(faultText(warning))
    return get().open(result.value)
  },
}))

/** Texts that take a while to be read and checked. */
const LARGE_TEXT = 200_000

/** Reads the audio a patch names, and says what is not here. */
const bringAudio = async (patch: Patch): Promise<void> => {
  if (audioAssets(patch).length === 0) return
  const missing = await loadAudio(patch)
  if (missing.length > 0)
    toast.warning(
      `The audio of ${missing.map(oneLine).join(', ')} is not in this browser; what needs it is silent.`,
      {
        description: 'Open the archive (.ypatch.zip) it came with.',
      },
    )
  engine.reloadAssets()
}

type Set = (state: Partial<DocumentState>) => void
const adopt = (set: Set, patch: Patch, history: History, moves?: Moves): void => {
  set({ patch, history, saved: { kind: 'changed' } })
  engine.setPatch(patch, moves)
  schedule()
}

type Moved = { patch: Patch; history: History; change: Change } | undefined

/** One step back or forth: in the document, and in what lies over it. */
const step = (
  set: Set,
  get: () => DocumentState,
  side: 'before' | 'after',
  move: (patch: Patch, history: History) => Moved,
): void => {
  engine.restHand()
  const { patch, history } = get()
  const result = move(patch, history)
  if (!result) return
  adopt(set, result.patch, result.history, result.change.moves?.[side])
}

let timer: ReturnType<typeof setTimeout> | undefined
const schedule = (after = AUTOSAVE_MS): void => {
  clearTimeout(timer)
  timer = setTimeout(() => {
    void save()
  }, after)
}
/** A store that failed is tried again after this long, until it holds. */
const RETRY_MS = 4000
/** A store that does not answer within this has failed. */
const ANSWER_MS = 8000

const answered = <T>(promise: Promise<T>): Promise<T> =>
  Promise.race([
    promise,
    new Promise<never>((_resolve, reject) => {
      setTimeout(() => {
        reject(new Error('it does not answer'))
      }, ANSWER_MS)
    }),
  ])

const STORE_WORDS = new Map([
  ['QuotaExceededError', 'no room left in the browser'],
  ['SecurityError', 'the browser allows no store'],
  ['InvalidStateError', 'the browser allows no store'],
])
const failure = (error: unknown): string =>
  STORE_WORDS.get((error as Error | undefined)?.name ?? '') ??
  oneLine((error as Error | undefined)?.message ?? '')

const save = async (): Promise<void> => {
  const { patch } = useDocument.getState()
  try {
    await answered(storage.setItem(tabKey(), { patch, at: Date.now() }))
    if (useDocument.getState().patch === patch)
      useDocument.setState({ saved: { kind: 'kept', at: Date.now() } })
  } catch (error) {
    useDocument.setState({ saved: { kind: 'failed', message: failure(error) } })
    schedule(RETRY_MS)
  }
}

const OPENING = 'ypsilon-opening'
/** Notes that a patch is being opened: if the page ends before it is shown, the next visit knows. */
const beginOpening = (patch: Patch): void => {
  try {
    sessionStorage.setItem(OPENING, patch.name)
  } catch {
    // Nothing can be kept; then nothing is reopened either.
  }
}
const endOpening = (): void => {
  try {
    sessionStorage.removeItem(OPENING)
  } catch {
    // As above.
  }
}
/** Name of a patch that the last visit did not get to show. */
const brokeOff = (): string | undefined => {
  try {
    return sessionStorage.getItem(OPENING) ?? undefined
  } catch {
    return undefined
  }
}

const moveAside = async (key: string, stored: Stored): Promise<void> => {
  await answered(storage.setItem(`aside-${Date.now()}`, stored))
  await answered(storage.removeItem(key))
}

/** Puts what this tab keeps aside, so that the next visit does not open it; false when it could not be kept. */
export const putAside = async (): Promise<boolean> => {
  endOpening()
  try {
    await moveAside(tabKey(), { patch: useDocument.getState().patch, at: Date.now() })
    return true
  } catch {
    return false
  }
}

const setAside = async (
  key: string,
  stored: Stored,
  title: string,
  faults: readonly Fault[],
): Promise<void> => {
  await moveAside(key, stored)
  toast.error(title, {
    description: faults.slice(0, 3).map(faultText).join('\n'),
    action: {
      label: 'Export it',
      onClick: () => {
        exportText((stored.patch as { name?: string } | null)?.name ?? 'patch', stored.patch)
      },
    },
    duration: 60000,
  })
}

/** Brings back what was on this tab's bench, or the newest there is; false when there was nothing. */
export const restore = async (): Promise<boolean> => {
  try {
    const all = await answered(benches())
    for (const old of all.slice(KEPT)) await storage.removeItem(old.key)
    const stored = all.find((item) => item.key === tabKey()) ?? all[0]
    if (!stored) return false
    const broken = brokeOff()
    endOpening()
    if (broken !== undefined) {
      await setAside(
        stored.key,
        stored,
        `${oneLine(broken)} could not be shown last time. It is put aside, not deleted.`,
        [],
      )
      return false
    }
    const result = checkPatch(stored.patch)
    if (!result.ok) {
      await setAside(
        stored.key,
        stored,
        'What was on the bench could not be read. It is put aside, not deleted.',
        result.faults,
      )
      return false
    }
    if (await useDocument.getState().open(result.value)) return true
    await setAside(
      stored.key,
      stored,
      'What was on the bench cannot be played. It is put aside, not deleted.',
      [],
    )
    return false
  } catch (error) {
    useDocument.setState({ saved: { kind: 'failed', message: failure(error) } })
    return false
  }
}

if (typeof window !== 'undefined') {
  const flush = (): void => {
    if (useDocument.getState().saved.kind === 'changed') void save()
  }
  window.addEventListener('pagehide', flush)
  // Who leaves in the middle of it was not broken off: a page that hangs has no time for this.
  window.addEventListener('pagehide', endOpening)
  document.addEventListener('visibilitychange', flush)
}
