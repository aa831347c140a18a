/* eslint max-lines: ["error", 500] -- one state: the voices of a note source */
import * as abi from '../kernels/abi.ts'
import type { NoteSource } from './source.ts'

/** Where the allocator reads set values and writes voice records: the engine's memory. Kernels are woken by the caller. */
export interface VoiceMemory {
  f32(address: number): number
  u32(address: number): number
  setF32(address: number, value: number): void
  setU32(address: number, value: number): void
  param(address: number): number
  curve(x: number, curve: number): number
  /** Marks the voice whose fade is counted at `address` as stolen. */
  steal(address: number): void
}

interface Voice {
  note: number
  id: number
  channel: number
  held: boolean
  /** Key released, kept by the pedal. */
  sustained: boolean
  used: boolean
  /** Counts of starts and releases, for "oldest". */
  started: number
  released: number
  /** Frame at which the gate last fell. */
  fell: number
}

interface Key {
  readonly note: number
  readonly id: number
  readonly velocity: number
  readonly channel: number
}

const LEGATO = 2
const PRIORITY_LOW = 1,
  PRIORITY_HIGH = 2
const GLIDE_OFF = 0,
  GLIDE_LEGATO = 2

/** 60 = C4 = 0 octaves. */
const equalPitch = (note: number): number => (note - 60) / 12

/** Deterministic −1…1 from a seed and a count. */
const scatterOf = (seed: number, count: number): number => {
  let h = (Math.imul(count + 1, 0x9e3779b9) ^ seed) >>> 0
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d)
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b)
  return ((h ^ (h >>> 16)) | 0) / 2147483648
}

const isSounding = (voice: Voice): boolean => voice.held || voice.sustained

/** Is a voice to be taken rather than another: free ones first, those never used before all, then the oldest. */
const isSooner = (voice: Voice, other: Voice): boolean => {
  const sounds = isSounding(voice)
  if (sounds !== isSounding(other)) return !sounds
  if (sounds) return voice.started < other.started
  return voice.used === other.used ? voice.released < other.released : !voice.used
}

/**
 * Gives notes to the voices of one note source: poly (oldest released first, then oldest held), mono and legato with
 * priorities, sustain pedal, zones, per-note touch. Driven by events at sample times; writes the records its kernel
 * renders.
 */
export class NoteAllocator {
  private source: NoteSource
  private readonly voices: Voice[] = []
  private keys: Key[] = []
  private pedal = false
  private count = 0

  constructor(
    source: NoteSource,
    private readonly memory: VoiceMemory,
    private readonly pitchOf: (note: number) => number = equalPitch,
  ) {
    this.source = source
    this.resize()
  }

  /** Takes over a new plan's addresses; voices that no longer exist are forgotten. */
  adopt(source: NoteSource): void {
    this.source = source
    this.resize()
  }

  /** Index of the voice that started last. */
  get newest(): number {
    let best = 0
    for (let index = 1; index < this.voices.length; index += 1)
      if (this.voices[index]!.started > this.voices[best]!.started) best = index
    return best
  }

  private resize(): void {
    while (this.voices.length > this.source.voices) this.voices.pop()
    while (this.voices.length < this.source.voices)
      this.voices.push({
        note: 0,
        id: 0,
        channel: 0,
        held: false,
        sustained: false,
        used: false,
        started: 0,
        released: 0,
        fell: -1,
      })
  }

  private record(index: number): number {
    return this.source.aux + index * abi.VOICE_BYTES
  }
  private choice(name: keyof NoteSource['choices']): number {
    return this.memory.u32(this.source.choices[name])
  }
  private value(name: keyof NoteSource['values']): number {
    return this.memory.param(this.source.values[name])
  }
  private listens(channel: number): boolean {
    return this.source.channel === 0 || channel === 0 || this.source.mpe || channel === this.source.channel
  }

  on(frame: number, note: number, velocity: number, id: number, channel = 0): void {
    if (!this.listens(channel)) return
    if (
      note < this.value('lowKey') ||
      note > this.value('highKey') ||
      velocity < this.value('lowVelocity') ||
      velocity > this.value('highVelocity')
    )
      return
    // A tuning may leave keys without a note.
    if (Number.isNaN(this.pitchOf(note))) return
    const key: Key = { note, id, velocity: this.memory.curve(velocity, this.value('velocityCurve')), channel }
    const othersHeld = this.anyHeld()
    this.memory.setU32(this.source.aux + abi.CHANNEL_ANY, 1)
    if (this.choice('mode') === 0) this.startPoly(frame, key, othersHeld)
    else this.startMono(frame, key)
    this.updateHeld()
  }

  // Loops without closures from here on: this runs in the audio thread, for every voice of every note.
  private anyHeld(): boolean {
    for (const voice of this.voices) if (isSounding(voice)) return true
    return false
  }

  private startPoly(frame: number, key: Key, othersHeld: boolean): void {
    let best = 0
    for (let index = 1; index < this.voices.length; index += 1)
      if (isSooner(this.voices[index]!, this.voices[best]!)) best = index
    const voice = this.voices[best]!,
      steals = isSounding(voice)
    if (steals) this.memory.steal(this.source.aux + abi.CHANNEL_STEALS + 4 * best)
    this.start(best, key, steals || voice.fell === frame, true, othersHeld)
  }

  private startMono(frame: number, key: Key): void {
    const wasHeld = this.keys.length > 0
    const before = this.chosen()
    this.keys.push(key)
    const now = this.chosen()!
    if (now === before) return
    const legato = this.choice('mode') === LEGATO && wasHeld
    this.start(
      0,
      now,
      !legato && (wasHeld || this.voices[0]!.fell === frame || this.voices[0]!.sustained),
      !legato,
      wasHeld,
    )
  }

  /** The key that sounds, by priority. */
  private chosen(): Key | undefined {
    const priority = this.choice('priority')
    let best = this.keys.at(-1)
    for (const key of this.keys) {
      if (priority === PRIORITY_LOW && key.note < best!.note) best = key
      if (priority === PRIORITY_HIGH && key.note > best!.note) best = key
    }
    return best
  }

  private start(index: number, key: Key, drop: boolean, trigger: boolean, othersHeld: boolean): void {
    const { memory } = this
    const voice = this.voices[index]!
    const record = this.record(index)
    const when = this.choice('glideWhen')
    const glides = voice.used && when !== GLIDE_OFF && (when !== GLIDE_LEGATO || othersHeld)
    memory.setF32(record + abi.VOICE_PITCH, this.pitchOf(key.note))
    memory.setU32(
      record + abi.VOICE_FLAGS,
      memory.u32(record + abi.VOICE_FLAGS) |
        (glides ? abi.VOICE_GLIDE : abi.VOICE_JUMP) |
        (drop ? abi.VOICE_DROP : 0) |
        (trigger ? abi.VOICE_TRIGGER : 0),
    )
    memory.setF32(record + abi.VOICE_GATE, 1)
    if (trigger) {
      this.count += 1
      memory.setF32(record + abi.VOICE_VELOCITY, key.velocity)
      memory.setF32(record + abi.VOICE_SCATTER, scatterOf(this.source.seed, this.count))
      if (!this.source.mpe) {
        memory.setF32(record + abi.VOICE_PRESSURE, 0)
        memory.setF32(record + abi.VOICE_SLIDE, 0)
        memory.setF32(record + abi.VOICE_BEND, 0)
      }
    }
    this.starts += 1
    voice.note = key.note
    voice.id = key.id
    voice.channel = key.channel
    voice.held = true
    voice.sustained = false
    voice.used = true
    voice.started = this.starts
  }
  private starts = 0

  off(frame: number, note: number, id: number | undefined, velocity: number): void {
    if (this.choice('mode') !== 0 || this.keys.length > 0) this.stopMono(frame, note, id, velocity)
    if (this.choice('mode') === 0) this.stopPoly(frame, note, id, velocity)
    this.updateHeld()
  }

  private stopPoly(frame: number, note: number, id: number | undefined, velocity: number): void {
    let best = -1
    for (let index = 0; index < this.voices.length; index += 1) {
      const voice = this.voices[index]!
      if (!voice.held || voice.note !== note || (id !== undefined && voice.id !== id)) continue
      if (best < 0 || voice.started > this.voices[best]!.started) best = index
    }
    if (best < 0) return
    this.memory.setF32(this.record(best) + abi.VOICE_RELEASE, velocity)
    this.release(best, frame)
  }

  private stopMono(frame: number, note: number, id: number | undefined, velocity: number): void {
    const before = this.chosen()
    for (let index = this.keys.length - 1; index >= 0; index -= 1) {
      const key = this.keys[index]!
      if (key.note !== note || (id !== undefined && key.id !== id)) continue
      this.keys.splice(index, 1)
      break
    }
    const now = this.chosen()
    if (now === before) return
    if (now) {
      this.start(0, now, false, false, true)
      return
    }
    this.memory.setF32(this.record(0) + abi.VOICE_RELEASE, velocity)
    this.release(0, frame)
  }

  private release(index: number, frame: number): void {
    const voice = this.voices[index]!
    voice.held = false
    if (this.pedal) {
      voice.sustained = true
      return
    }
    this.close(index, frame)
  }

  private close(index: number, frame: number): void {
    const voice = this.voices[index]!
    voice.sustained = false
    voice.released = this.starts += 1
    voice.fell = frame
    this.memory.setF32(this.record(index) + abi.VOICE_GATE, 0)
  }

  private updateHeld(): void {
    this.memory.setF32(this.source.aux + abi.CHANNEL_HELD, this.anyHeld() ? 1 : 0)
  }

  /** Touch of one note, or of every note on a channel. */
  touch(field: 'pressure' | 'slide' | 'bend', value: number, note: number | undefined, channel = 0): void {
    if (!this.listens(channel)) return
    const offset = { pressure: abi.VOICE_PRESSURE, slide: abi.VOICE_SLIDE, bend: abi.VOICE_BEND }[field]
    const single = note !== undefined || (this.source.mpe && channel > 1)
    if (!single && field === 'bend') {
      this.memory.setF32(this.source.aux + abi.CHANNEL_BEND, value)
      return
    }
    this.voices.forEach((voice, index) => {
      if (note !== undefined && (voice.note !== note || !(voice.held || voice.sustained))) return
      if (note === undefined && single && voice.channel !== channel) return
      this.memory.setF32(this.record(index) + offset, value)
    })
  }

  control(frame: number, controller: number, value: number, channel = 0): void {
    if (!this.listens(channel)) return
    if (controller === 1) this.memory.setF32(this.source.aux + abi.CHANNEL_WHEEL, value)
    if (controller === 74 && this.source.mpe) this.touch('slide', value, undefined, channel)
    if (controller !== 64) return
    this.pedal = value >= 0.5
    if (!this.pedal)
      this.voices.forEach((voice, index) => {
        if (voice.sustained) this.close(index, frame)
      })
    this.updateHeld()
  }

  /** Releases everything at once. */
  silence(frame: number): void {
    this.keys = []
    this.pedal = false
    this.voices.forEach((voice, index) => {
      if (voice.held || voice.sustained) {
        voice.held = false
        this.close(index, frame)
      }
    })
    this.updateHeld()
  }
}
