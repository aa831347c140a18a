/** Clips from what a player did, and as what one would do. */
import { type Clip, type ClipNote, MOST_NOTES, rounded, SHORTEST, velocityOf } from './clips.ts'

const BEATS_PER_BAR = 4
/** Bars a clip takes. */
export const barsOf = (clip: Clip): number =>
  Math.max(
    1,
    Math.ceil(
      clip.reduce((end, { start, length }) => Math.max(end, start + length), 0) / BEATS_PER_BAR - 1e-6,
    ),
  )

interface Pressed {
  readonly type: string
  readonly t: number
  readonly note?: number
  readonly velocity?: number
  readonly id?: number
}

/** The notes of what a player did, at a tempo in bpm; a note that is not let go lasts a beat. */
export const clipOfEvents = (events: readonly Pressed[], tempo: number): Clip => {
  const beats = (seconds: number): number => rounded((seconds * tempo) / 60)
  const held = new Map<number, { readonly at: number; readonly event: Pressed }>(),
    clip: ClipNote[] = []
  const end = (id: number, t: number): void => {
    const begun = held.get(id)
    if (!begun) return
    held.delete(id)
    clip[begun.at] = { ...clip[begun.at]!, length: Math.max(SHORTEST, beats(t - begun.event.t)) }
  }
  for (const event of events) {
    const { type, t, note, velocity = 1 } = event
    const id = event.id ?? note
    if (note === undefined || id === undefined) continue
    if (type === 'off') end(id, t)
    if (type !== 'on' || clip.length >= MOST_NOTES) continue
    end(id, t)
    held.set(id, { at: clip.length, event })
    clip.push({ start: beats(t), length: 1, note, velocity: Math.round(1000 * velocity) / 1000 })
  }
  return clip
}

/** What a player would do to play a clip, at a tempo in bpm. */
export const eventsOfClip = (clip: Clip, tempo: number) => {
  const seconds = (beats: number): number => (60 * beats) / tempo
  return clip
    .flatMap((note, index) => [
      {
        t: seconds(note.start),
        type: 'on' as const,
        note: note.note,
        velocity: velocityOf(note),
        id: index + 1,
      },
      {
        t: seconds(note.start + note.length),
        type: 'off' as const,
        note: note.note,
        velocity: 0.5,
        id: index + 1,
      },
    ])
    .sort((a, b) => a.t - b.t || Number(a.type === 'on') - Number(b.type === 'on'))
}
