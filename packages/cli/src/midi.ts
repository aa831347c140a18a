import toneMidi from '@tonejs/midi'
import type { PlayerEvent } from '@ypsilon/core'
import { BadInput } from './bad-input.ts'

/** Reads a MIDI file as what a player did; its tempo map gives the seconds. */
export const readMidi = (bytes: Uint8Array, file: string): PlayerEvent[] => {
  let midi
  try {
    midi = new toneMidi.Midi(bytes)
  } catch (error) {
    throw new BadInput([`${file}: this MIDI file cannot be read (${(error as Error).message})`])
  }
  const events: PlayerEvent[] = []
  let id = 0
  for (const track of midi.tracks) {
    const channel = track.channel + 1
    for (const note of track.notes) {
      id += 1
      events.push(
        { t: note.time, type: 'on', note: note.midi, velocity: note.velocity, id, channel },
        {
          t: note.time + note.duration,
          type: 'off',
          note: note.midi,
          velocity: note.noteOffVelocity,
          id,
          channel,
        },
      )
    }
    for (const [controller, changes] of Object.entries(track.controlChanges)) {
      for (const change of changes)
        events.push({
          t: change.time,
          type: 'control',
          controller: Number(controller),
          value: change.value,
          channel,
        })
    }
    for (const bend of track.pitchBends)
      events.push({ t: bend.time, type: 'bend', value: bend.value, channel })
  }
  return events
}
