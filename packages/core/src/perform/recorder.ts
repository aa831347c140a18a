/** What a player does, kept as an event file that renders to the same sound. */
import { valueChanges } from '../engine/value-changes.ts'
import type { EventFile, EventHeader, PlayerEvent } from '../notes/events.ts'
import type { Patch } from '../patch/types.ts'

/** A player's event before it is known at which sample it took effect. */
export type Untimed = PlayerEvent extends infer E ? (E extends PlayerEvent ? Omit<E, 't'> : never) : never

/** Where a recording begins. */
export interface RecordingStart {
  /** SHA-256 of the patch, as `patchHash` gives it. */
  readonly patch: string
  readonly rate: number
  readonly quality: 'live' | 'best'
  readonly engine: string
  readonly tempo: number
  /** Frame of the engine at which it begins. */
  readonly frame: number
  /** True where the engine was made anew for it and stands at frame 0, beat 0. */
  readonly reset: boolean
}

/**
 * What is given at one time is taken together; what was taken one after the other on one sample gets times within it, so
 * that it is rendered one after the other as well.
 */
const WITHIN = 0.05,
  MOST_WITHIN = 0.45

export class Recorder {
  private readonly events: PlayerEvent[] = []
  private waiting: { readonly event: Untimed; readonly delay: number }[] = []
  private isOver = false
  private lastFrame = -1
  private sameFrame = 0

  constructor(private readonly start: RecordingStart) {}

  /** A structural edit ended it; what came after is not in it. */
  get ended(): boolean {
    return this.isOver
  }

  /** Takes an event down; it takes effect `delay` frames after what its batch is stamped with. */
  note(event: Untimed, delay = 0): void {
    if (!this.isOver) this.waiting.push({ event, delay })
  }

  /** All events noted since the last batch take effect together: the frame at which they do. */
  batch(): ((frame: number) => void) | undefined {
    const { waiting } = this
    if (waiting.length === 0) return undefined
    this.waiting = []
    return (frame) => {
      this.sameFrame = frame === this.lastFrame ? this.sameFrame + 1 : 0
      this.lastFrame = frame
      const within = Math.min(MOST_WITHIN, this.sameFrame * WITHIN)
      for (const { event, delay } of waiting)
        this.events.push({ t: this.secondsAt(frame + delay + within), ...event } as PlayerEvent)
    }
  }

  /** The document was edited meanwhile: changed values are taken down as moves; a change of structure ends it. */
  edited(before: Patch, after: Patch): void {
    const changes = valueChanges(before, after)
    if (!changes) {
      this.isOver = true
      return
    }
    for (const [target, value] of changes)
      this.note(
        target.startsWith('macro:')
          ? { type: 'macro', target: target.slice(6), value: Number(value) }
          : { type: 'param', target, value },
      )
    if (before.tempo !== after.tempo) this.note({ type: 'tempo', value: after.tempo ?? 120 })
  }

  private secondsAt(frame: number): number {
    return (frame - this.start.frame) / this.start.rate
  }

  file(): EventFile {
    const { patch, rate, quality, engine, tempo, reset } = this.start
    const header: EventHeader = {
      patch,
      rate,
      quality,
      engine,
      tempo,
      ...(reset ? {} : { repeatable: false }),
    }
    return { header, events: [...this.events].sort((a, b) => a.t - b.t) }
  }
}
