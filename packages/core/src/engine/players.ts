import { tunedPitch } from '../formats/scala.ts'
import * as abi from '../kernels/abi.ts'
import { NoteAllocator, type VoiceMemory } from '../notes/allocator.ts'
import type { NoteSource } from '../notes/source.ts'
import type { NoteEvent } from './events.ts'
import type { Kernels } from './kernel-exports.ts'

/** The note sources of the running plan, each with its allocator of voices. */
export class Players {
  private readonly allocators = new Map<string, NoteAllocator>()
  /** Pitches of the 128 notes; equal steps where there is none. */
  private tuning: readonly number[] | undefined
  private isStealing = false

  constructor(
    private readonly memory: VoiceMemory,
    private readonly kernels: Kernels,
  ) {}

  /** Takes over the sources of a plan: those that were there before play on. */
  adopt(sources: readonly NoteSource[], tuning: readonly number[] | undefined): void {
    this.tuning = tuning
    const ids = new Set(sources.map((source) => source.id))
    for (const id of [...this.allocators.keys()]) if (!ids.has(id)) this.allocators.delete(id)
    for (const source of sources) {
      const allocator = this.allocators.get(source.id)
      if (allocator) allocator.adopt(source)
      else this.allocators.set(source.id, new NoteAllocator(source, this.memory, this.pitchOf))
    }
  }
  private readonly pitchOf = (note: number): number =>
    this.tuning ? tunedPitch(this.tuning, note) : (note - 60) / 12

  play(event: NoteEvent, clock: number): void {
    for (const allocator of this.allocators.values()) {
      if (event.type === 'on') allocator.on(clock, event.note, event.velocity, event.id, event.channel)
      else if (event.type === 'off') allocator.off(clock, event.note, event.id, event.velocity)
      else if (event.type === 'control')
        allocator.control(clock, event.controller, event.value, event.channel)
      else allocator.touch(event.type, event.value, event.note, event.channel)
    }
    this.kernels.wake()
  }
  silence(clock: number): void {
    for (const allocator of this.allocators.values()) allocator.silence(clock)
    this.kernels.wake()
  }

  /** Voice that started last, for pictures of one voice. */
  get newestVoice(): number {
    for (const allocator of this.allocators.values()) return allocator.newest
    return 0
  }

  /** A voice was stolen: its share in voice sums fades. */
  noteSteal(): void {
    this.isStealing = true
  }
  /** Counts the fades of stolen voices down after a segment. */
  passed(sources: readonly NoteSource[], frames: number): void {
    if (!this.isStealing) return
    this.isStealing = false
    for (const source of sources)
      if (this.kernels.countSteals(source.aux + abi.CHANNEL_STEALS, frames)) this.isStealing = true
  }
}
