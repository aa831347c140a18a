/** Keeps one document while it is worked on: every step when it is made, the whole when nobody works. */
import { type History, latestOf, type Patch, PATCH_VERSION } from '@ypsilon/core'
import { type Box, failureWords, type Notebook } from './database.ts'
import { writeMirror } from './mirror.ts'
import {
  type Head,
  headKey,
  KEPT_STEPS,
  type KeptStep,
  type NumberedStep,
  type PatchBody,
  stepKey,
  writeBody,
} from './records.ts'

/** What is said at the patch's name. */
export type Saved =
  | { readonly kind: 'kept'; readonly at: number }
  /** On its way; `isSafe` where a crash now loses nothing. */
  | { readonly kind: 'keeping'; readonly isSafe: boolean }
  | { readonly kind: 'failed'; readonly message: string }

export interface Clock {
  now(): number
  wait(milliseconds: number, then: () => void): unknown
  cancel(waiting: unknown): void
}

export interface KeeperParts {
  readonly box: Box
  readonly notebook: Notebook
  readonly clock: Clock
  /** Told at each change of it. */
  readonly onSaved: (saved: Saved) => void
  /** Another tab has taken the document over. */
  readonly onLost: () => void
  /** The document as it stands. */
  readonly whole: () => Whole
  /** Its head was written anew: lists show it differently now. */
  readonly onListed: () => void
}

interface Whole {
  readonly patch: Patch
  readonly history: History
}

export interface Kept {
  readonly head: Head
  /** Number of the last step that is kept. */
  readonly steps: number
  /** Number of the first step that stands by itself in the store, where some do. */
  readonly from?: number
  /** The whole as it was before its first step, where the store has none yet. */
  readonly body?: PatchBody
  /** Steps that stand in the notebook alone. */
  readonly unwritten?: readonly NumberedStep[]
}

/** Nobody has worked for so long: the whole is written. */
const IDLE_MS = 2000
/** Steps after which it is written all the same, when there is a moment. */
const MANY_STEPS = 400
/** While a gesture makes its step grow, the store gets it so often; the notebook has every value at once. */
const GROWN_MS = 80
/** A store that failed is tried again after this long, until it holds. */
const RETRY_MS = 4000

export class Keeper {
  private head: Head
  private last: number
  /** Steps from here on are in no whole. */
  private from: number
  /** The first one that still stands by itself in the store. */
  private oldest: number
  private base: PatchBody | undefined
  private readonly pending = new Map<number, KeptStep>()
  /** What the last step was: a change as it was first made, one that grew, or anything else. */
  private lastWas: 'change' | 'grown' | 'other' = 'other'
  private writing: Promise<boolean> | undefined
  private idle: unknown
  private retry: unknown
  private soon: unknown
  private ended = false
  private isWholeWanted = false

  constructor(
    private readonly parts: KeeperParts,
    kept: Kept,
  ) {
    this.head = kept.head
    this.last = kept.steps
    this.from = kept.from ?? kept.steps + 1
    this.oldest = this.from
    this.base = kept.body
    for (const [n, step] of kept.unwritten ?? []) this.pending.set(n, step)
  }

  /** Writes what the store does not have yet. */
  begin(): void {
    if (!this.hasMore) return
    this.mirror()
    void this.flush()
  }

  get id(): string {
    return this.head.id
  }

  /** Is there anything the store has not confirmed? */
  get hasMore(): boolean {
    return this.pending.size > 0 || this.base !== undefined
  }

  /** A step was made; `replacesLast` where it is the last one, grown by a further part of its gesture. */
  step(step: KeptStep, replacesLast = false): void {
    if (this.ended) return
    // What grows may be in the whole already, or have a step after it: then a further step says so.
    const isInPlace = replacesLast && this.lastWas !== 'other' && this.last >= this.from
    if (!isInPlace) this.last += 1
    const isGrown = step.do === 'change' && (isInPlace ? this.lastWas === 'grown' : replacesLast)
    this.pending.set(this.last, isGrown ? { ...step, isGrown } : step)
    this.lastWas = isGrown ? 'grown' : step.do === 'change' ? 'change' : 'other'
    const isSafe = this.mirror()
    this.parts.onSaved({ kind: 'keeping', isSafe })
    if (this.retry !== undefined) return
    if (isInPlace && isSafe) this.flushSoon()
    else void this.flush()
  }

  private flushSoon(): void {
    this.soon ??= this.parts.clock.wait(GROWN_MS, () => void this.flush())
  }

  /** Something else of the document changed: its whole is written soon. */
  touch(head: Partial<Head>): void {
    this.head = { ...this.head, ...head }
    this.isWholeWanted = true
    this.waitIdle()
  }

  /** Writes everything that is not there yet; false when the store does not take it. */
  flush(): Promise<boolean> {
    this.parts.clock.cancel(this.soon)
    this.soon = undefined
    this.writing ??= this.write().finally(() => {
      this.writing = undefined
    })
    return this.writing
  }

  private mirror(): boolean {
    return writeMirror(this.parts.notebook, this.head.id, this.head.revision, {
      ...(this.base ? { body: this.base } : {}),
      steps: [...this.pending],
    })
  }

  private async write(): Promise<boolean> {
    const { box, clock, onSaved } = this.parts
    // Writers share one promise: what is written belongs to the caller's step as well.
    await Promise.resolve()
    try {
      if (await this.isTaken()) return false
      if (this.base) await this.writeBody(this.base)
      for (const [n, step] of this.pending) {
        await box.set(stepKey(this.head.id, this.head.revision, n), step)
        // It may have grown meanwhile: then it is written again, as it comes last.
        if (this.pending.get(n) === step) this.pending.delete(n)
        else if (this.pending.has(n)) {
          const grown = this.pending.get(n)!
          this.pending.delete(n)
          this.pending.set(n, grown)
        }
      }
      this.mirror()
      clock.cancel(this.retry)
      this.retry = undefined
      onSaved({ kind: 'kept', at: clock.now() })
      this.isWholeWanted = true
      this.waitIdle()
      return true
    } catch (error) {
      this.failed(error)
      return false
    }
  }

  private failed(error: unknown): void {
    this.parts.onSaved({ kind: 'failed', message: failureWords(error) })
    if (this.ended) return
    this.parts.clock.cancel(this.retry)
    this.retry = this.parts.clock.wait(RETRY_MS, () => {
      this.retry = undefined
      void this.flush()
    })
  }

  /** Has another tab taken the document over? Then nothing is written here: what is not kept goes on as a copy. */
  private async isTaken(): Promise<boolean> {
    const stored = await this.parts.box.get<Head>(headKey(this.head.id))
    if (!stored || stored.revision <= this.head.revision) return false
    this.ended = true
    this.parts.onLost()
    return true
  }

  private async writeBody(body: PatchBody): Promise<void> {
    await writeBody(this.parts.box, body)
    this.base = undefined
    this.parts.onListed()
  }

  private waitIdle(): void {
    const { clock } = this.parts
    clock.cancel(this.idle)
    if (this.ended) return
    const isLong = this.last - this.from >= MANY_STEPS
    this.idle = clock.wait(isLong ? 0 : IDLE_MS, () => {
      void this.writeWhole()
    })
  }

  /** Writes the whole with all steps so far, and takes away the steps that are in it. */
  async writeWhole(final?: Whole): Promise<boolean> {
    if (!(await this.flush())) return false
    if (!this.isWholeWanted || this.ended) return true
    if (this.pending.size > 0) return true
    const { box, clock, whole } = this.parts
    const { patch, history } = final ?? whole(),
      steps = this.last
    this.isWholeWanted = false
    this.from = steps + 1
    const { past, future } = latestOf(history, KEPT_STEPS)
    this.head = { ...this.head, name: patch.name, tags: patch.tags ?? [], changed: clock.now() }
    try {
      await this.writeBody({ head: this.head, format: PATCH_VERSION, steps, patch, past, future })
      for (; this.oldest <= steps; this.oldest += 1)
        await box.remove(stepKey(this.head.id, this.head.revision, this.oldest))
      return true
    } catch (error) {
      this.isWholeWanted = true
      this.failed(error)
      return false
    }
  }

  /** Writes everything as it is at the end, and rests. False when the store does not take it. */
  async close(final: Whole): Promise<boolean> {
    this.parts.clock.cancel(this.idle)
    const isKept = await this.writeWhole(final)
    this.end()
    return isKept
  }

  /** Rests at once: nothing is written any more. What is not confirmed stays in the notebook. */
  end(): void {
    this.ended = true
    this.parts.clock.cancel(this.idle)
    this.parts.clock.cancel(this.retry)
    this.parts.clock.cancel(this.soon)
  }
}
