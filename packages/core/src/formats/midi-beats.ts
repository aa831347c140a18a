/** Notes of a MIDI file by beats, as they are written: a tempo that changes moves none of them. */
import type { Result } from '../patch/types.ts'
import { readTimeline } from './midi.ts'

/** A note that begins or ends, `t` in beats. */
export interface BeatEvent {
  readonly t: number
  readonly type: 'on' | 'off'
  readonly note: number
  /** 0…1 */
  readonly velocity: number
  /** The same of both ends. */
  readonly id: number
}

const SEVEN_BITS = 127

/** All notes of all tracks and channels; faults name the byte. */
export const notesInBeats = (bytes: Uint8Array): Result<readonly BeatEvent[]> => {
  const timeline = readTimeline(bytes)
  if (!timeline.ok) return timeline
  const { ticksPerBeat, events } = timeline.value
  const notes = events.flatMap(({ tick, event }): BeatEvent[] =>
    event.type === 'noteOn' || event.type === 'noteOff'
      ? [
          {
            t: tick / ticksPerBeat,
            type: event.type === 'noteOn' ? 'on' : 'off',
            note: event.noteNumber,
            velocity: event.velocity / SEVEN_BITS,
            id: 128 * event.channel + event.noteNumber,
          },
        ]
      : [],
  )
  return { ok: true, value: notes, warnings: [] }
}
