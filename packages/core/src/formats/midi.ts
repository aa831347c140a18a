/* eslint max-lines: ["error", 500] -- one format, read and written */
/** MIDI files (Standard MIDI Files 1.0) as what a player did. */
import midiFile, { type MidiEvent } from 'midi-file'
import { checkEvents, type EventFile, LAST_SECOND, type PlayerEvent } from '../notes/events.ts'
import type { Fault, Result } from '../patch/types.ts'

const { parseMidi, writeMidi } = midiFile

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

/** A MIDI file's events in one line of time: all tracks together, in order. */
export interface MidiTimeline {
  readonly ticksPerBeat: number
  readonly events: readonly { readonly tick: number; readonly event: MidiEvent }[]
}

/** Reads the events of a file. Faults name the byte. */
export const readTimeline = (bytes: Uint8Array): Result<MidiTimeline> => {
  const fault = shapeFault(bytes)
  if (fault) return { ok: false, faults: [fault] }
  let midi
  try {
    midi = parseMidi(bytes)
  } catch (error) {
    const words = error instanceof Error ? error.message : String(error)
    return refuse('', `this MIDI file cannot be read (${words})`)
  }
  const events = midi.tracks.flatMap((track) => {
    let tick = 0
    return track.map((event) => {
      tick += event.deltaTime
      return { tick, event }
    })
  })
  // Sorting is stable: what happens at one time stays in the order of the file.
  events.sort((a, b) => a.tick - b.tick)
  return { ok: true, value: { ticksPerBeat: midi.header.ticksPerBeat ?? 480, events }, warnings: [] }
}

const MICROSECONDS_A_MINUTE = 60e6
/** Tempo of a file that says nothing. */
const DEFAULT_TEMPO = 120
/** Tempos a patch can play. */
const SLOWEST = 20,
  FASTEST = 300
const SEVEN_BITS = 127,
  BEND_STEPS = 8191
/** "All sound off": what silences everything. */
const ALL_SOUND_OFF = 120

/** Seconds of ticks, by the tempo map walked so far. */
class Seconds {
  private tick = 0
  private seconds = 0
  private perTick: number
  constructor(private readonly ticksPerBeat: number) {
    this.perTick = 60 / DEFAULT_TEMPO / ticksPerBeat
  }
  at(tick: number): number {
    const seconds = this.exactly(tick)
    // A tick may round to just behind the last second there is.
    return seconds > LAST_SECOND && seconds < LAST_SECOND + 1 ? LAST_SECOND : seconds
  }
  private exactly(tick: number): number {
    return this.seconds + (tick - this.tick) * this.perTick
  }
  tempo(tick: number, microsecondsPerBeat: number): void {
    this.seconds = this.exactly(tick)
    this.tick = tick
    this.perTick = microsecondsPerBeat / 1e6 / this.ticksPerBeat
  }
}

/** Notes that sound, by channel and key: the first that began ends first. */
class Sounding {
  private readonly ids = new Map<number, number[]>()
  private last = 0
  begin(channel: number, note: number): number {
    const key = channel * 128 + note,
      list = this.ids.get(key)
    this.last += 1
    if (list) list.push(this.last)
    else this.ids.set(key, [this.last])
    return this.last
  }
  end(channel: number, note: number): number | undefined {
    return this.ids.get(channel * 128 + note)?.shift()
  }
  /** Notes that never end. */
  left(): { readonly channel: number; readonly note: number; readonly id: number }[] {
    return [...this.ids].flatMap(([key, ids]) =>
      ids.map((id) => ({ channel: Math.floor(key / 128), note: key % 128, id })),
    )
  }
}

const touchOf = (event: MidiEvent, t: number): PlayerEvent | undefined => {
  if (!('channel' in event) || event.type === 'channelPrefix') return undefined
  const channel = event.channel + 1
  switch (event.type) {
    case 'noteAftertouch':
      return { t, type: 'pressure', note: event.noteNumber, value: event.amount / SEVEN_BITS, channel }
    case 'channelAftertouch':
      return { t, type: 'pressure', value: event.amount / SEVEN_BITS, channel }
    case 'pitchBend':
      return { t, type: 'bend', value: Math.max(-1, event.value / BEND_STEPS), channel }
    case 'programChange':
      return { t, type: 'program', program: event.programNumber, channel }
    case 'controller':
      return event.controllerType === ALL_SOUND_OFF
        ? { t, type: 'silence' }
        : { t, type: 'control', controller: event.controllerType, value: event.value / SEVEN_BITS, channel }
    default:
      return undefined
  }
}

/**
 * Reads notes, touch, controls, programs and tempo; the tempo map gives the seconds. Notes that never end, end with the
 * file. Faults name the byte, or the event that came out.
 */
export const readMidi = (bytes: Uint8Array): Result<PlayerEvent[]> => {
  const timeline = readTimeline(bytes)
  if (!timeline.ok) return timeline
  const { ticksPerBeat, events: all } = timeline.value
  const seconds = new Seconds(ticksPerBeat),
    sounding = new Sounding()
  const events: PlayerEvent[] = [],
    warnings: Fault[] = []
  for (const { tick, event } of all) {
    const t = seconds.at(tick)
    if (event.type === 'setTempo') {
      seconds.tempo(tick, event.microsecondsPerBeat)
      const bpm = MICROSECONDS_A_MINUTE / event.microsecondsPerBeat
      if (bpm >= SLOWEST && bpm <= FASTEST) events.push({ t, type: 'tempo', value: bpm })
      else
        warnings.push({
          place: `${t.toFixed(3)} s`,
          message: `a tempo of ${bpm.toFixed(1)} bpm is outside ${SLOWEST}…${FASTEST}; it times the notes but sets no tempo`,
        })
    } else if (event.type === 'noteOn') {
      const { noteNumber: note, channel: zero, velocity } = event
      const id = sounding.begin(zero + 1, note)
      events.push({ t, type: 'on', note, velocity: velocity / SEVEN_BITS, id, channel: zero + 1 })
    } else if (event.type === 'noteOff') {
      const { noteNumber: note, channel: zero, velocity } = event
      const id = sounding.end(zero + 1, note)
      if (id !== undefined)
        events.push({ t, type: 'off', note, velocity: velocity / SEVEN_BITS, id, channel: zero + 1 })
    } else {
      const touch = touchOf(event, t)
      if (touch) events.push(touch)
    }
  }
  const end = seconds.at(all.at(-1)?.tick ?? 0)
  for (const { channel, note, id } of sounding.left())
    events.push({ t: end, type: 'off', note, velocity: 0, id, channel })
  const faults = checkEvents(events, 'event')
  return faults.length > 0 ? { ok: false, faults } : { ok: true, value: events, warnings }
}

/** Ticks a beat: at 120 bpm one is a frame of 48 kHz. */
const TICKS_PER_BEAT = 24000
/** Longest time between two events that a file can say; longer ones are told by empty texts in between. */
const LONGEST_GAP = 2 ** 28 - 1
/** Slide is told by this control, as instruments with touch of every note do. */
const SLIDE_CONTROL = 74

export interface WrittenMidi {
  readonly bytes: Uint8Array
  /** What a MIDI file cannot say, in words. */
  readonly lost: readonly string[]
}

const sevenBits = (value: number): number => Math.round(Math.min(1, Math.max(0, value)) * SEVEN_BITS)

type TimelessEvent = DistributiveOmit<MidiEvent, 'deltaTime'>

/** What MIDI has nothing for, in words. */
const LOST: ReadonlyMap<PlayerEvent['type'], string> = new Map([
  ['param', 'moves of parameters'],
  ['macro', 'moves of macros'],
  ['snapshot', 'snapshots'],
  ['blend', 'blends'],
  ['data', 'changes of data'],
  ['bypass', 'bypasses'],
  ['transport', 'start and stop of the transport'],
  ['clock', 'ticks of a clock'],
])

/** A note's beginning or end. */
const noteEventOf = (event: Extract<PlayerEvent, { type: 'on' | 'off' }>, channel: number): TimelessEvent => {
  const velocity = sevenBits(event.velocity ?? (event.type === 'on' ? 1 : 0))
  const noteNumber = Math.round(event.note)
  // Velocity 0 would be a note's end.
  return event.type === 'on'
    ? { type: 'noteOn', channel, noteNumber, velocity: Math.max(1, velocity) }
    : { type: 'noteOff', channel, noteNumber, velocity }
}

/** What a hand does to a sounding note, or to all of them. */
const touchEventOf = (
  event: Extract<PlayerEvent, { type: 'pressure' | 'slide' | 'bend' }>,
  channel: number,
): TimelessEvent | string => {
  const { note, value, type } = event
  if (type === 'pressure')
    return note === undefined
      ? { type: 'channelAftertouch', channel, amount: sevenBits(value) }
      : { type: 'noteAftertouch', channel, noteNumber: Math.round(note), amount: sevenBits(value) }
  if (note !== undefined) return `${type} of single notes`
  return type === 'slide'
    ? { type: 'controller', channel, controllerType: SLIDE_CONTROL, value: sevenBits(value) }
    : { type: 'pitchBend', channel, value: Math.round(value * BEND_STEPS) }
}

/** One event as a MIDI event; a word for what it is where MIDI has nothing for it. */
const midiEventOf = (event: PlayerEvent): TimelessEvent | string => {
  const channel = Math.max(0, ('channel' in event ? (event.channel ?? 1) : 1) - 1)
  switch (event.type) {
    case 'on':
    case 'off':
      return noteEventOf(event, channel)
    case 'pressure':
    case 'slide':
    case 'bend':
      return touchEventOf(event, channel)
    case 'control':
      return { type: 'controller', channel, controllerType: event.controller, value: sevenBits(event.value) }
    case 'program':
      return { type: 'programChange', channel, programNumber: event.program }
    case 'tempo':
      return { type: 'setTempo', microsecondsPerBeat: Math.round(MICROSECONDS_A_MINUTE / event.value) }
    case 'silence':
      return event.value === false
        ? 'playing on after silence'
        : { type: 'controller', channel, controllerType: ALL_SOUND_OFF, value: 0 }
    default:
      return LOST.get(event.type)!
  }
}

type DistributiveOmit<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never

/** Events with the frames of the tempo map walked: seconds become ticks. */
const ticksOf = (
  file: EventFile,
): { readonly track: MidiEvent[]; readonly lost: ReadonlyMap<string, number> } => {
  const lost = new Map<string, number>(),
    track: MidiEvent[] = []
  const count = (word: string): void => {
    lost.set(word, (lost.get(word) ?? 0) + 1)
  }
  let from = 0,
    base = 0,
    perSecond = (TICKS_PER_BEAT * DEFAULT_TEMPO) / 60,
    last = 0
  const add = (t: number, event: DistributiveOmit<MidiEvent, 'deltaTime'>): void => {
    const tick = Math.max(last, Math.round(base + (t - from) * perSecond))
    for (; tick - last > LONGEST_GAP; last += LONGEST_GAP)
      track.push({ deltaTime: LONGEST_GAP, type: 'text', text: '' })
    track.push({ deltaTime: tick - last, ...event } as MidiEvent)
    last = tick
    if (event.type !== 'setTempo') return
    base += (t - from) * perSecond
    from = t
    perSecond = (TICKS_PER_BEAT * 1e6) / event.microsecondsPerBeat
  }
  const { tempo } = file.header
  const first: PlayerEvent[] = tempo === undefined ? [] : [{ t: 0, type: 'tempo', value: tempo }]
  for (const event of [...first, ...inTime(file.events)]) {
    const meant = midiEventOf(event)
    if (typeof meant === 'string') {
      count(meant)
      continue
    }
    if ('note' in event && event.note !== undefined && !Number.isInteger(event.note) && event.type !== 'off')
      count('pitches between the notes')
    if (event.type === 'slide') count('slide apart from control 74')
    add(event.t, meant)
  }
  track.push({ deltaTime: 0, type: 'endOfTrack' })
  return { track, lost }
}

/** In time; at one time ends of notes before all else. */
const inTime = (events: readonly PlayerEvent[]): PlayerEvent[] =>
  [...events].sort((a, b) => a.t - b.t || Number(b.type === 'off') - Number(a.type === 'off'))

/** Writes what MIDI can say of an event file, and names what it cannot. */
export const writeMidiFile = (file: EventFile): WrittenMidi => {
  const { track, lost } = ticksOf(file)
  const bytes = writeMidi({
    header: { format: 0, numTracks: 1, ticksPerBeat: TICKS_PER_BEAT },
    tracks: [track],
  })
  const { tempo: _tempo, ...header } = file.header
  const named = Object.keys(header)
  return {
    bytes: Uint8Array.from(bytes),
    lost: [
      ...[...lost].map(([word, times]) => `${word} (${times})`),
      ...(named.length > 0 ? [`the header's ${named.join(', ')}`] : []),
    ],
  }
}
