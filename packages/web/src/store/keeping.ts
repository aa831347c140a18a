/** Keeps what is on the bench: who writes it, which tab holds it, and what becomes of it when it leaves. */
import { oneLine, type Patch } from '@ypsilon/core'
import { failureWords, type Notebook } from '../kept/database.ts'
import type { Documents } from '../kept/documents.ts'
import { type Clock, Keeper, type Kept, type Saved } from '../kept/keeper.ts'
import { type Hold, type Locks, WAIT_MS } from '../kept/locks.ts'
import type { KeptStep } from '../kept/records.ts'
import type { Notifier } from '../services/notifier.ts'
import type { DocumentStore, Whole } from './document.ts'
import type { TabNotes } from './opening.ts'

export interface KeepingParts {
  readonly documents: Documents
  readonly notebook: Notebook
  readonly locks: Locks
  readonly clock: Clock
  readonly notifier: Notifier
  readonly notes: TabNotes
  readonly store: () => DocumentStore
  readonly exportText: (name: string, value: unknown) => void
  /** Told when the list of documents has changed. */
  readonly onListed: () => void
  /** Another tab took the document while something was not kept: it goes on as a document of its own. */
  readonly onCopy: (whole: Whole) => void
}

/** A version is kept by itself when this long has been worked since the last. */
const VERSION_MS = 10 * 60 * 1000
const FAILED_MS = 60_000

export class Keeping {
  private keeper: Keeper | undefined
  private hold: Hold | undefined
  private versionAt = 0
  /** Documents that left and are still being written. */
  private readonly leaving = new Map<string, Promise<unknown>>()

  constructor(private readonly parts: KeepingParts) {
    parts.locks.onAsked = (id) => {
      if (id === this.id) void this.letGo()
    }
    parts.locks.onChanged = parts.onListed
  }

  private get store(): DocumentStore {
    return this.parts.store()
  }
  private get id(): string | undefined {
    return this.store.getState().id
  }
  private say(saved: Saved): void {
    this.store.setState({ saved })
  }

  /** Resolves when a document that has left is written. */
  async written(id: string): Promise<void> {
    await this.leaving.get(id)
  }

  /** What is on the bench is kept from now on; without a hold the next one asked for is taken. */
  keep(kept: Kept, hold?: Hold): void {
    const { documents, notebook, clock, onListed, locks } = this.parts
    const keeper: Keeper = new Keeper(
      {
        box: documents.box,
        notebook,
        clock,
        whole: () => this.store.getState(),
        onSaved: (saved) => {
          if (this.keeper === keeper) this.say(saved)
        },
        onLost: () => {
          this.lost(keeper)
        },
        onListed: () => {
          onListed()
          locks.changed()
        },
      },
      kept,
    )
    this.keeper = keeper
    this.versionAt = clock.now()
    if (hold) this.holds(hold)
    keeper.begin()
  }

  private holds(hold: Hold): void {
    const { keeper } = this
    this.hold = hold
    hold.onLost = () => {
      if (keeper && this.hold === hold) this.lost(keeper)
    }
  }

  /** A step was made on the bench. */
  readonly onStep = (step: KeptStep, replacesLast: boolean, before: Whole): void => {
    if (this.store.getState().isReading) return
    if (!this.keeper) {
      // What only lies over a patch is no edit of it.
      if (step.do === 'change' && step.change.steps.length === 0) return
      this.begin(before)
    }
    this.keeper!.step(step, replacesLast)
    if (this.parts.clock.now() - this.versionAt > VERSION_MS) void this.keepVersion('', true)
  }

  /** The first edit of a new patch or a demo: it becomes a document, as it was before. */
  private begin({ patch, history }: Whole): void {
    const body = { ...this.parts.documents.bodyOf(patch), ...history }
    const { id } = body.head
    this.store.setState({ id })
    this.parts.notes.onBench = { kind: 'document', id }
    this.keep({ head: body.head, steps: 0, body })
    void this.parts.locks.hold(id, WAIT_MS).then((hold) => {
      if (this.id === id && hold) this.holds(hold)
      else hold?.release()
    })
  }

  /** Notes that the document was used now. */
  use(): void {
    this.keeper?.touch({ used: this.parts.clock.now() })
  }

  /** Keeps the patch as it stands, to come back to. */
  async keepVersion(name: string, isAutomatic: boolean): Promise<void> {
    const { id, patch } = this.store.getState()
    this.versionAt = this.parts.clock.now()
    if (id === undefined) return
    try {
      await this.parts.documents.keepVersion(id, name, patch, isAutomatic)
    } catch (error) {
      this.parts.notifier.error(`The version could not be kept: ${failureWords(error)}`)
    }
  }

  /** The document leaves the bench: it is written to the end, and then let go. */
  async leave(): Promise<void> {
    const { keeper, hold } = this
    this.keeper = undefined
    this.hold = undefined
    if (!keeper) {
      hold?.release()
      return
    }
    const { patch, history } = this.store.getState()
    const written = keeper.close({ patch, history }).then((isKept) => {
      hold?.release()
      this.leaving.delete(keeper.id)
      if (!isKept) this.sayLeft(patch)
    })
    this.leaving.set(keeper.id, written)
    await written
  }

  private sayLeft(patch: Patch): void {
    this.parts.notifier.error(`${oneLine(patch.name)} could not be kept in this browser.`, {
      action: {
        label: 'Export it',
        onClick: () => {
          this.parts.exportText(patch.name, patch)
        },
      },
      duration: FAILED_MS,
    })
  }

  /** Another tab asked for the document: everything is written, then it is only read here. */
  private async letGo(): Promise<void> {
    const { keeper, hold } = this
    this.read()
    const { patch, history } = this.store.getState()
    await keeper?.close({ patch, history })
    hold?.release()
  }

  /** It is another tab's now. */
  private read(): void {
    this.keeper = undefined
    this.hold = undefined
    this.store.setState({ isReading: true })
  }

  /** Another tab took it without an answer: what was not kept by then becomes a copy. */
  private lost(keeper: Keeper): void {
    if (keeper !== this.keeper) return
    const { hasMore } = keeper
    keeper.end()
    this.read()
    if (!hasMore) return
    const { patch, history } = this.store.getState()
    this.parts.onCopy({ patch: { ...patch, name: `${patch.name} (copy)` }, history })
    this.parts.notifier.warning(`${oneLine(patch.name)} was taken over by another tab.`, {
      description: 'What you did since is in a copy, which is open here now.',
    })
  }
}
