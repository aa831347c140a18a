/** What comes to the bench and what leaves it. Opening one document touches no other. */
import {
  emptyPatch,
  EMPTY_HISTORY,
  faultText,
  type History,
  oneLine,
  parsePatch,
  type CompileResult,
  type Patch,
  type Result,
} from '@ypsilon/core'
import { failureWords } from '../kept/database.ts'
import type { Kept } from '../kept/keeper.ts'
import { type Hold, WAIT_MS } from '../kept/locks.ts'
import { type Arrival, Arrivals, SHOWN_FAULTS } from './arrivals.ts'
import type { DocumentState, Whole } from './document.ts'
import { Keeping, type KeepingParts } from './keeping.ts'
import type { OnBench } from './opening.ts'
import { readied } from './placing.ts'

/** A patch that comes with the page. */
export interface Demo {
  readonly name: string
  /** Its first tag. */
  readonly tag: string | undefined
  /** Fetched when it is asked for; throws where it cannot be had. */
  readonly patch: () => Promise<Patch>
}

export interface DeskParts extends Omit<KeepingParts, 'onCopy'> {
  readonly engine: { compiled(patch: Patch): CompileResult; openPatch(patch: Patch): void }
  readonly demos: readonly Demo[]
  readonly templates: readonly Demo[]
  /** Resolves when what was set before is on the screen. */
  readonly shown: () => Promise<void>
  /** Reads the audio a patch names. */
  readonly bringAudio: (patch: Patch) => Promise<void>
}

/** Texts that take a while to be read and checked. */
const LARGE_TEXT = 200_000
const FAILED_MS = 60_000

/** A document that comes to the bench. */
interface Coming extends Whole {
  readonly onBench: OnBench
  readonly kept?: Kept
  readonly hold?: Hold
  readonly isReading?: boolean
}

/** How a document that comes is kept: on its way where the store does not have all of it yet. */
const savedAs = (isKept: boolean, kept: Kept | undefined, now: number): DocumentState['saved'] => {
  if (!isKept) return { kind: 'new' }
  const isOnItsWay = kept?.body !== undefined || (kept?.unwritten?.length ?? 0) > 0
  return isOnItsWay ? { kind: 'keeping', isSafe: true } : { kind: 'kept', at: now }
}

export class Desk {
  readonly keeping: Keeping
  private readonly arrivals: Arrivals

  constructor(private readonly parts: DeskParts) {
    this.keeping = new Keeping({
      ...parts,
      onCopy: ({ patch, history }) => void this.importPatch(patch, history),
    })
    this.arrivals = new Arrivals({ ...parts, compiled: (patch) => parts.engine.compiled(patch) })
  }

  /** Brings back what was on this tab's bench, or what was worked on last, or the first demo. */
  async start(): Promise<void> {
    const { documents, notes, demos, store } = this.parts
    const broken = notes.brokeOff,
      was = notes.onBench
    notes.end()
    try {
      await documents.recover()
      if (broken !== undefined) {
        if (was?.kind === 'document')
          await this.setAside(
            was.id,
            `${oneLine(broken)} could not be shown last time. It is put aside, not deleted.`,
          )
      } else if (await this.bringBack(was)) return
    } catch (error) {
      store().setState({ saved: { kind: 'failed', message: failureWords(error) } })
    }
    if (!(await this.openDemo(demos[0]!))) await this.openNew()
  }

  private async bringBack(was: OnBench | undefined): Promise<boolean> {
    if (was?.kind === 'new') return this.openNew()
    if (was?.kind === 'demo') {
      const { demos, templates } = this.parts
      const demo = [...demos, ...templates].find(({ name }) => name === was.name)
      return demo ? this.openDemo(demo) : false
    }
    const id = was?.id ?? (await this.newest())
    return id !== undefined && this.openDocument(id)
  }

  private async newest(): Promise<string | undefined> {
    const heads = await this.parts.documents.heads()
    return heads.find((head) => head.kind === 'patch' && head.putAside === undefined)?.id
  }

  async openNew(): Promise<boolean> {
    return (
      (await this.bring({ patch: emptyPatch(), history: EMPTY_HISTORY, onBench: { kind: 'new' } })) ===
      'shown'
    )
  }

  /** False, and the bench stays as it is, where a demo cannot be fetched. */
  async openDemo({ name, patch: fetched }: Demo): Promise<boolean> {
    const onBench = { kind: 'demo', name } as const
    let patch: Patch
    try {
      patch = await fetched()
    } catch (error) {
      this.parts.notifier.error(`${name} could not be opened`, {
        description: `${oneLine(error instanceof Error ? error.message : String(error))}. Try again when the server answers.`,
      })
      return false
    }
    return (await this.bring({ patch, history: EMPTY_HISTORY, onBench })) === 'shown'
  }

  /** A patch to begin from; as a demo, it becomes a document at its first edit. */
  async openTemplate(name: string): Promise<boolean> {
    return this.openDemo(this.parts.templates.find((template) => template.name === name)!)
  }

  /** A patch from outside, or a copy: it is a document at once. */
  async importPatch(patch: Patch, history: History = EMPTY_HISTORY): Promise<boolean> {
    const ready = await readied(patch)
    const body = { ...this.parts.documents.bodyOf(ready), ...history }
    const { id } = body.head
    const hold = await this.parts.locks.hold(id, WAIT_MS)
    const arrival = await this.bring({
      patch: ready,
      history,
      onBench: { kind: 'document', id },
      kept: { head: body.head, steps: 0, body },
      ...(hold ? { hold } : {}),
    })
    if (arrival !== 'shown') hold?.release()
    return arrival === 'shown'
  }

  /** Opens what was read from a file; what could not be read is said and changes nothing. */
  async importResult(result: Result<Patch>, name: string): Promise<boolean> {
    if (!result.ok) {
      this.arrivals.refuse(name, result.faults)
      return false
    }
    for (const warning of result.warnings.slice(0, SHOWN_FAULTS))
      this.parts.notifier.warning(faultText(warning))
    return this.importPatch(result.value)
  }

  /** The same from a file's text. */
  async importText(text: string, name: string): Promise<boolean> {
    try {
      if (text.length > LARGE_TEXT) await this.arrivals.announce(name, 'reading')
      return await this.importResult(parsePatch(text), name)
    } finally {
      this.arrivals.over()
    }
  }

  /** Opens a kept document; where another tab works on it, to be read. */
  async openDocument(id: string): Promise<boolean> {
    if (id === this.parts.store().getState().id) return true
    await this.keeping.written(id)
    return this.openHeld(id, await this.parts.locks.hold(id, WAIT_MS))
  }

  private async openHeld(id: string, hold: Hold | undefined): Promise<boolean> {
    const { documents } = this.parts
    const read = await documents.read(id)
    if (!read.ok) {
      hold?.release()
      await this.setAside(id, 'A patch could not be read. It is put aside, not deleted.', read)
      return false
    }
    const { patch, history, head, steps, from, unwritten, older } = read
    if (older) await documents.keepVersion(id, `As format ${older.version} left it`, older, true)
    const arrival = await this.bring({
      patch,
      history,
      onBench: { kind: 'document', id },
      ...(hold ? { hold, kept: { head, steps, from, unwritten } } : { isReading: true }),
    })
    if (arrival === 'shown') {
      this.keeping.use()
      return true
    }
    hold?.release()
    if (arrival === 'refused')
      await this.setAside(id, `${oneLine(head.name)} cannot be played. It is put aside, not deleted.`)
    return false
  }

  /** Takes a document that is only read here from the tab that works on it. */
  async workHere(): Promise<void> {
    const { id, isReading } = this.parts.store().getState()
    if (id === undefined || !isReading) return
    const hold = await this.parts.locks.take(id)
    await this.parts.documents.takeOver(id)
    await this.openHeld(id, hold)
  }

  /** Keeps a copy of what is on the bench as a document of its own and opens that. */
  duplicate(): Promise<boolean> {
    const { patch } = this.parts.store().getState()
    return this.importPatch({ ...patch, name: `${patch.name} copy` })
  }

  /** Moves what is on the bench to what is put aside; false when that could not be written. */
  async putAside(): Promise<boolean> {
    const { documents, notes, onListed, store } = this.parts
    const { id, patch } = store().getState()
    notes.end()
    try {
      await this.keeping.leave()
      await documents.putAside(id ?? (await documents.make(patch)))
      store().setState({ id: undefined })
      onListed()
      return true
    } catch {
      return false
    }
  }

  /** Takes a document back from what is put aside and opens it. */
  async takeBack(id: string): Promise<boolean> {
    await this.parts.documents.takeBack(id)
    this.parts.onListed()
    return this.openDocument(id)
  }

  /** Puts a document on the bench; one that cannot be played is refused and leaves the bench as it is. */
  private async bring(coming: Coming): Promise<Arrival> {
    const { notes, shown, bringAudio } = this.parts
    const arrival = await this.arrivals.bring(coming.patch, (patch) => {
      void this.keeping.leave()
      notes.begin(patch.name)
      this.place({ ...coming, patch })
      void shown().then(() => {
        notes.end()
      })
    })
    if (arrival === 'shown') void bringAudio(coming.patch)
    return arrival
  }

  private place({ patch, history, onBench, kept, hold, isReading = false }: Coming): void {
    const { clock, engine, notes } = this.parts
    const store = this.parts.store()
    const isKept = onBench.kind === 'document'
    store.setState({
      id: isKept ? onBench.id : undefined,
      patch,
      history,
      isReading,
      saved: savedAs(isKept, kept, clock.now()),
      opened: store.getState().opened + 1,
    })
    notes.onBench = onBench
    engine.openPatch(patch)
    if (kept) this.keeping.keep(kept, hold)
  }

  /** A document that cannot be shown is put aside, and may leave as a file. */
  private async setAside(
    id: string,
    title: string,
    read?: { readonly message: string; readonly body?: unknown },
  ): Promise<void> {
    const { documents, notifier, onListed, exportText } = this.parts
    await documents.putAside(id, read?.message ?? title)
    onListed()
    const found = read?.body ?? (await documents.bodyAsIs(id))
    const patch = (found as { patch?: { name?: string } } | null)?.patch
    notifier.error(title, {
      ...(read ? { description: read.message } : {}),
      action: {
        label: 'Export it',
        onClick: () => {
          exportText(patch?.name ?? 'patch', patch ?? found)
        },
      },
      duration: FAILED_MS,
    })
  }
}
