/** The document on the bench: what it is, how it is edited, and how edits are taken back. */
import {
  type Change,
  continues,
  dropped,
  edit,
  emptyPatch,
  EMPTY_HISTORY,
  faultText,
  type History,
  keepAsSet,
  leftMoved,
  type Moves,
  type Moved,
  movesChange,
  NO_MOVES,
  overlayOf,
  type Patch,
  placeModules,
  record,
  redo,
  roomFor,
  undo,
} from '@ypsilon/core'
import type { Draft } from 'immer'
import { createStore, type StoreApi } from 'zustand'
import type { Saved } from '../kept/keeper.ts'
import type { KeptStep } from '../kept/records.ts'
import type { Notifier } from '../services/notifier.ts'

/** What the document needs of the engine. */
export interface DocumentEngine {
  setPatch(patch: Patch, moves?: Moves): void
  restHand(): void
  moves(): Moves
}

/** A patch on its way to the bench: what is said meanwhile. */
export interface Opening {
  readonly name: string
  readonly words: string
}

/** Document and history as they were before a step. */
export interface Whole {
  readonly patch: Patch
  readonly history: History
}

export interface DocumentState extends Whole {
  /** Id under which it is kept; undefined until its first edit. */
  readonly id: string | undefined
  /** `new` until something is there to keep. */
  readonly saved: Saved | { readonly kind: 'new' }
  /** Another tab works on it: it is shown and played, not edited. */
  readonly isReading: boolean
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
  /** Goes back or forth to where so many steps were made. */
  goToStep(count: number): void
  /** Takes a gesture back as if it had not been made; nothing where it has made no step. */
  giveUp(gesture: string): void
}
export type DocumentStore = StoreApi<DocumentState>

export interface DocumentParts {
  readonly engine: DocumentEngine
  readonly notifier: Notifier
  /** Told of every step; `before` is what it was made on. */
  readonly onStep: (step: KeptStep, replacesLast: boolean, before: Whole) => void
}

export const READING_WORDS = 'This patch is open in another tab; here it can be read and played.'

const NO_PLACES: ReturnType<typeof roomFor> = new Map()

/** The one write path of the page. */
const writer = (store: DocumentStore, { engine, notifier, onStep }: DocumentParts) => {
  const canEdit = (): boolean => {
    if (!store.getState().isReading) return true
    notifier.warning(READING_WORDS, { description: 'Choose Work here beside its name to edit it here.' })
    return false
  }
  const adopt = (after: Whole, step: KeptStep, replacesLast: boolean, moves?: Moves): void => {
    const { patch, history } = store.getState()
    store.setState(after)
    engine.setPatch(after.patch, moves)
    onStep(step, replacesLast, { patch, history })
  }
  return {
    canEdit,
    /** Adds a change that was made. */
    add(patch: Patch, change: Change, moves?: Moves): void {
      const before = store.getState().history
      const history = record(before, change)
      adopt(
        { patch, history },
        { do: 'change', change: history.past.at(-1)! },
        continues(before, change),
        moves,
      )
    },
    /** Goes one step back or forth: in the document, and in what lies over it. */
    go(word: 'undo' | 'redo' | 'drop', move: (patch: Patch, history: History) => Moved | undefined): void {
      engine.restHand()
      const { patch, history } = store.getState()
      const moved = move(patch, history)
      if (!moved || !canEdit()) return
      const side = word === 'redo' ? 'after' : 'before'
      adopt({ patch: moved.patch, history: moved.history }, { do: word }, false, moved.change.moves?.[side])
    },
    refuse(name: string, faults: Parameters<typeof faultText>[0][]): void {
      notifier.error(`${name}: ${faults.map(faultText).join('; ')}`)
    },
  }
}

/** What was moved becomes what is set, in one step that undo takes back both ways. */
const keepMoved = (patch: Patch, engine: DocumentEngine, write: ReturnType<typeof writer>): void => {
  const name = 'Keep as set',
    before = engine.moves()
  const result = edit(patch, name, (draft) => {
    keepAsSet(draft, overlayOf(before))
  })
  if (!result.ok) {
    write.refuse(name, [...result.faults])
    return
  }
  const after = leftMoved(result.patch, before)
  write.add(result.patch, { ...result.change, moves: { before, after } }, after)
}

/** An edit; cards that grow by it push those below them down. */
const editWithRoom = (
  ...[patch, name, recipe, options]: Required<Parameters<typeof edit>>
): ReturnType<typeof edit> => {
  const result = edit(patch, name, recipe, options)
  const places = result.ok ? roomFor(patch, result.patch) : NO_PLACES
  if (places.size === 0) return result
  return edit(
    patch,
    name,
    (draft) => {
      recipe(draft)
      placeModules(draft, places)
    },
    options,
  )
}

export const createDocumentStore = (parts: DocumentParts): DocumentStore => {
  const { engine } = parts
  const store: DocumentStore = createStore<DocumentState>()((set, get) => ({
    id: undefined,
    patch: emptyPatch(),
    history: EMPTY_HISTORY,
    saved: { kind: 'new' },
    isReading: false,
    opening: undefined,
    opened: 0,
    change(name, recipe, gesture) {
      // What a hand has moved before it is a step before it.
      engine.restHand()
      if (!write.canEdit()) return false
      const { patch } = get()
      const result = editWithRoom(patch, name, recipe, gesture === undefined ? {} : { gesture })
      if (!result.ok) {
        write.refuse(name, [...result.faults])
        return false
      }
      if (result.patch !== patch) write.add(result.patch, result.change)
      return true
    },
    moved(name, before, after) {
      const whole = get(),
        change = movesChange(name, before, after)
      set({ history: record(whole.history, change) })
      parts.onStep({ do: 'change', change }, false, whole)
    },
    keepAsSet() {
      engine.restHand()
      if (write.canEdit()) keepMoved(get().patch, engine, write)
    },
    backToSet() {
      engine.restHand()
      const before = engine.moves()
      get().moved('Back to set', before, NO_MOVES)
      engine.setPatch(get().patch, NO_MOVES)
    },
    undo() {
      write.go('undo', undo)
    },
    redo() {
      write.go('redo', redo)
    },
    goToStep(count) {
      for (let past = get().history.past.length; past !== count; past = get().history.past.length) {
        if (past > count) write.go('undo', undo)
        else write.go('redo', redo)
        // Nothing more to go through, or not allowed.
        if (get().history.past.length === past) return
      }
    },
    giveUp(gesture) {
      if (get().history.past.at(-1)?.gesture === gesture) write.go('drop', dropped)
    },
  }))
  const write = writer(store, parts)
  return store
}
