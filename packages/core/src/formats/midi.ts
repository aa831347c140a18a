/** MIDI files (Standard MIDI Files 1.0) as what a player did. */
import toneMidi from '@tonejs/midi'
import { checkEvents, type PlayerEvent } from '../notes/events.ts'
import type { Fault, Result } from '../patch/types.ts'

const refuse = (place: string, message: string): { readonly ok: false; readonly faults: Fault[] } => ({
  ok: false,
  faults: [{ place, message }],
})

/** Data bytes behind each kind of channel message, by the high half of its status. */
const DATA_BYTES = new Map([
  [0x8, 2],
  [0x9, 2],
  [0xa, 2],
  [0xb, 2],
  [0xc, 1],
  [0xd, 1],
  [0xe, 2],
])
const TEMPO = 0x51

/** Walks the bytes of one track. */
class TrackWalk {
  private running = 0
  constructor(
    private readonly bytes: Uint8Array,
    private at: number,
    private readonly end: number,
  ) {}

  /** What is wrong, at which byte; undefined when nothing is. */
  fault(): Fault | undefined {
    try {
      while (this.at < this.end) this.event()
      return undefined
    } catch (error) {
      if (error instanceof RangeError) return { place: `byte ${this.at}`, message: error.message }
      throw error
    }
  }

  private byte(): number {
    if (this.at >= this.end) throw new RangeError('the track ends in the middle of an event')
    const value = this.bytes[this.at]!
    this.at += 1
    return value
  }

  /** A length of one to four bytes. */
  private length(): number {
    let value = 0
    for (let n = 0; n < 4; n += 1) {
      const byte = this.byte()
      value = value * 128 + (byte & 127)
      if (byte < 128) return value
    }
    throw new RangeError('a length takes more than four bytes')
  }

  private skip(count: number): void {
    if (this.at + count > this.end) throw new RangeError('the track ends in the middle of an event')
    this.at += count
  }

  private event(): void {
    this.length()
    const first = this.byte()
    if (first === 0xff) this.meta()
    else if (first === 0xf0 || first === 0xf7) this.skip(this.length())
    else if (first > 0xf0) throw new RangeError(`${first} cannot stand in a file`)
    else {
      if (first >= 128) this.running = first
      if (this.running === 0) throw new RangeError(`${first} is no status, and none came before`)
      this.skip(DATA_BYTES.get(this.running >> 4)! - (first < 128 ? 1 : 0))
    }
  }

  private meta(): void {
    const kind = this.byte(),
      length = this.length(),
      start = this.at
    this.skip(length)
    if (kind !== TEMPO) return
    const [a = 0, b = 0, c = 0] = this.bytes.subarray(start, start + 3)
    if (length !== 3 || a + b + c === 0) {
      this.at = start
      throw new RangeError('the tempo is nothing that time can be told by')
    }
  }
}

const wordAt = (bytes: Uint8Array, at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4))

/** Where a file is not as a MIDI file must be; undefined when it can be read. */
const shapeFault = (bytes: Uint8Array): Fault | undefined => {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 14 || wordAt(bytes, 0) !== 'MThd')
    return { place: 'byte 0', message: 'this is not a MIDI file (no MThd header)' }
  const division = view.getUint16(12)
  if (division === 0 || division >= 0x8000)
    return { place: 'byte 12', message: 'time is not counted in parts of a beat' }
  for (let at = 8 + view.getUint32(4), tracks = 0; at < bytes.length;) {
    if (at + 8 > bytes.length)
      return tracks > 0 ? undefined : { place: `byte ${at}`, message: 'the file ends before its first track' }
    const size = view.getUint32(at + 4),
      body = at + 8
    if (wordAt(bytes, at) === 'MTrk') {
      tracks += 1
      if (body + size > bytes.length)
        return { place: `byte ${at}`, message: `a track of ${size} bytes is cut off` }
      const fault = new TrackWalk(bytes, body, body + size).fault()
      if (fault) return fault
    }
    at = body + size
  }
  return undefined
}

/** Reads notes, controllers and bends; the tempo map gives the seconds. Faults name the byte, or the event that came out. */
export const readMidi = (bytes: Uint8Array): Result<PlayerEvent[]> => {
  const fault = shapeFault(bytes)
  if (fault) return { ok: false, faults: [fault] }
  let midi
  try {
    midi = new toneMidi.Midi(bytes)
  } catch (error) {
    return refuse('', `this MIDI file cannot be read (${(error as Error).message})`)
  }
  const events: PlayerEvent[] = []
  let id = 0
  for (const { channel: zero, notes, controlChanges, pitchBends } of midi.tracks) {
    const channel = zero + 1
    for (const { time, duration, midi: note, velocity, noteOffVelocity } of notes) {
      id += 1
      events.push(
        { t: time, type: 'on', note, velocity, id, channel },
        { t: time + duration, type: 'off', note, velocity: noteOffVelocity, id, channel },
      )
    }
    for (const [controller, changes] of Object.entries(controlChanges))
      for (const { time, value } of changes)
        events.push({ t: time, type: 'control', controller: Number(controller), value, channel })
    for (const { time, value } of pitchBends) events.push({ t: time, type: 'bend', value, channel })
  }
  const faults = checkEvents(events, 'event')
  return faults.length > 0 ? { ok: false, faults } : { ok: true, value: events, warnings: [] }
}
