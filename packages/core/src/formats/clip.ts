/** Notes of a MIDI file as a clip: what a `pattern` module plays. */
import type { Result } from '../patch/types.ts'
import { type MidiTimeline, readTimeline } from './midi.ts'

export interface ClipNote {
  /** In beats from the beginning. */
  readonly start: number
  readonly length: number
  readonly note: number
  readonly velocity: number
}
export interface Clip {
  readonly notes: readonly ClipNote[]
  /** Bars of four beats that hold them, 1…64. */
  readonly bars: number
  /** Notes that sound at once, 1…16. */
  readonly voices: number
}

const BEATS_PER_BAR = 4,
  MOST_BARS = 64,
  MOST_NOTES = 4096,
  MOST_VOICES = 16

const mostAtOnce = (notes: readonly ClipNote[]): number => {
  const edges = notes
    .flatMap(({ start, length }): [number, number][] => [
      [start, 1],
      [start + length, -1],
    ])
    .sort((a, b) => a[0] - b[0] || a[1] - b[1])
  let now = 0,
    most = 1
  for (const [, change] of edges) most = Math.max(most, (now += change))
  return Math.min(MOST_VOICES, most)
}

/** A note is never shorter, in beats. */
const SHORTEST = 0.01

const notesOf = ({ ticksPerBeat, events }: MidiTimeline): ClipNote[] => {
  const notes: ClipNote[] = []
  const begun = new Map<string, { readonly start: number; readonly velocity: number }[]>()
  for (const { tick, event } of events) {
    if (event.type !== 'noteOn' && event.type !== 'noteOff') continue
    const key = `${event.channel} ${event.noteNumber}`,
      now = tick / ticksPerBeat
    const list = begun.get(key)
    if (event.type === 'noteOn') {
      const note = { start: now, velocity: event.velocity / 127 }
      if (list) list.push(note)
      else begun.set(key, [note])
      continue
    }
    const note = list?.shift()
    if (note) notes.push({ ...note, length: Math.max(now - note.start, SHORTEST), note: event.noteNumber })
  }
  return notes
}

/** All tracks in one, cut off after 64 bars or 4096 notes with a warning. */
export const readClip = (bytes: Uint8Array): Result<Clip> => {
  const timeline = readTimeline(bytes)
  if (!timeline.ok) return timeline
  const all = notesOf(timeline.value).sort((a, b) => a.start - b.start || a.note - b.note)
  if (all.length === 0) return { ok: false, faults: [{ place: '', message: 'there are no notes in it' }] }
  const notes = all.filter(({ start }) => start < MOST_BARS * BEATS_PER_BAR).slice(0, MOST_NOTES)
  const end = notes.reduce((latest, { start, length }) => Math.max(latest, start + length), 0)
  return {
    ok: true,
    value: {
      notes,
      bars: Math.min(MOST_BARS, Math.max(1, Math.ceil(end / BEATS_PER_BAR))),
      voices: mostAtOnce(notes),
    },
    warnings:
      notes.length < all.length
        ? [{ place: '', message: `${all.length - notes.length} notes after bar ${MOST_BARS} are left out` }]
        : [],
  }
}
