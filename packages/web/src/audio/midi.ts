/** Web MIDI: messages into the engine, ports as they come and go, and nothing left sounding by those that go. */
import { noteName, type Untimed } from '@ypsilon/core'

/** What MIDI needs of the engine and the keys on screen. */
export interface MidiParts {
  readonly play: (device: string | undefined, event: Untimed) => void
  /** A note is held, or not any more. */
  readonly show: (note: number, isOn: boolean) => void
  readonly onPorts: (ports: readonly MidiPort[]) => void
  readonly now: () => number
}

export interface MidiPort {
  readonly name: string
  readonly isConnected: boolean
  /** When its last message came, and what it said. */
  readonly at?: number
  readonly last?: string
}

export type MidiState =
  | { readonly kind: 'idle' }
  | { readonly kind: 'refused'; readonly message: string }
  | { readonly kind: 'open' }

/** System real-time messages that drive an external clock. */
const CLOCK: Readonly<Record<number, 'tick' | 'start' | 'stop' | 'continue'>> = {
  0xf8: 'tick',
  0xfa: 'start',
  0xfb: 'continue',
  0xfc: 'stop',
}

/** Controls that are messages of their own. */
const SUSTAIN = 64,
  ALL_SOUND_OFF = 120,
  ALL_NOTES_OFF = 123

/** What one MIDI message says; undefined for what says nothing here. */
const eventOf = (data: Uint8Array): Untimed | undefined => {
  const [status = 0, a = 0, b = 0] = data
  const channel = (status & 15) + 1,
    id = channel * 128 + a
  const clock = CLOCK[status]
  if (clock) return { type: 'clock', value: clock }
  switch (status & 0xf0) {
    case 0x90:
      return b > 0
        ? { type: 'on', note: a, velocity: b / 127, id, channel }
        : { type: 'off', note: a, id, velocity: 0, channel }
    case 0x80:
      return { type: 'off', note: a, id, velocity: b / 127, channel }
    case 0xa0:
      return { type: 'pressure', note: a, value: b / 127, channel }
    case 0xb0:
      return { type: 'control', controller: a, value: b / 127, channel }
    case 0xc0:
      return { type: 'program', program: a, channel }
    case 0xd0:
      return { type: 'pressure', value: a / 127, channel }
    case 0xe0:
      return { type: 'bend', value: Math.max(-1, ((b << 7) + a - 8192) / 8191), channel }
    default:
      return undefined
  }
}

const words = (event: Untimed): string => {
  switch (event.type) {
    case 'on':
      return `note ${noteName(event.note)}, ${Math.round((event.velocity ?? 1) * 127)}`
    case 'off':
      return `note ${noteName(event.note)} off`
    case 'control':
      return `control ${event.controller}, ${Math.round(event.value * 127)}`
    case 'program':
      return `program ${event.program}`
    case 'clock':
      return `clock ${event.value}`
    case 'pressure':
    case 'bend':
      return `${event.type} ${event.value.toFixed(2)}`
    default:
      return event.type
  }
}

interface Held {
  readonly note: number
  readonly id: number
  readonly channel: number
}

/** What one device has done that must end with it. */
class Device {
  port: MidiPort
  private readonly notes = new Map<number, Held>()
  private readonly pedals = new Set<number>()

  constructor(
    name: string,
    private readonly parts: MidiParts,
  ) {
    this.port = { name, isConnected: true }
  }

  receive(event: Untimed): void {
    this.port = { ...this.port, at: this.parts.now(), last: words(event) }
    if (event.type === 'control' && event.controller === ALL_SOUND_OFF) {
      this.parts.play(this.port.name, { type: 'silence' })
      this.letGo()
    } else if (event.type === 'control' && event.controller === ALL_NOTES_OFF) {
      this.letGo(event.channel)
    } else {
      this.note(event)
      this.parts.play(this.port.name, event)
    }
  }

  private note(event: Untimed): void {
    if (event.type === 'on' && event.id !== undefined) {
      if (this.notes.has(event.id)) this.parts.show(event.note, false)
      this.notes.set(event.id, { note: event.note, id: event.id, channel: event.channel ?? 1 })
      this.parts.show(event.note, true)
    } else if (event.type === 'off' && event.id !== undefined && this.notes.delete(event.id))
      this.parts.show(event.note, false)
    else if (event.type === 'control' && event.controller === SUSTAIN) {
      if (event.value >= 0.5) this.pedals.add(event.channel ?? 1)
      else this.pedals.delete(event.channel ?? 1)
    }
  }

  /** Ends what it holds, on one channel or on all. */
  letGo(only?: number): void {
    const { name } = this.port
    for (const { note, id, channel } of [...this.notes.values()]) {
      if (only !== undefined && channel !== only) continue
      this.notes.delete(id)
      this.parts.play(name, { type: 'off', note, id, velocity: 0, channel })
      this.parts.show(note, false)
    }
    if (only !== undefined) return
    for (const channel of this.pedals)
      this.parts.play(name, { type: 'control', controller: SUSTAIN, value: 0, channel })
    this.pedals.clear()
  }
}

const REFUSED =
  "The browser did not allow MIDI. Allow it in the page's settings and try again; until then use the computer keys."
const MISSING = 'This browser has no MIDI. The computer keys and the keys on screen work all the same.'
/** How often the list of ports may change while messages come. */
const TELL_MS = 250

export class Midi {
  private readonly devices = new Map<string, Device>()
  private telling: ReturnType<typeof setTimeout> | undefined

  constructor(private readonly parts: MidiParts) {}

  /** Was MIDI allowed on an earlier visit? Then it opens without asking. */
  async wasAllowed(): Promise<boolean> {
    try {
      const status = await navigator.permissions.query({ name: 'midi' as PermissionName })
      return status.state === 'granted'
    } catch {
      return false
    }
  }

  /** Asks the browser for MIDI; its refusal comes back in words. */
  async open(): Promise<MidiState> {
    if (!('requestMIDIAccess' in navigator)) return { kind: 'refused', message: MISSING }
    try {
      const access = await navigator.requestMIDIAccess()
      access.onstatechange = () => {
        this.look(access)
      }
      this.look(access)
      return { kind: 'open' }
    } catch {
      return { kind: 'refused', message: REFUSED }
    }
  }

  /** Ports as they are now: new ones are listened to, those that went let go of their notes. */
  private look(access: MIDIAccess): void {
    const there = new Set<string>()
    for (const input of access.inputs.values()) {
      if (input.state === 'disconnected') continue
      const id = input.id ?? input.name ?? 'input'
      there.add(id)
      const device = this.devices.get(id) ?? new Device(input.name ?? 'MIDI input', this.parts)
      this.devices.set(id, device)
      device.port = { ...device.port, isConnected: true }
      input.onmidimessage = (event) => {
        if (event.data) this.receive(device, event.data)
      }
    }
    for (const [id, device] of this.devices) {
      if (there.has(id) || !device.port.isConnected) continue
      device.letGo()
      device.port = { ...device.port, isConnected: false }
    }
    this.tell()
  }

  private receive(device: Device, data: Uint8Array): void {
    const event = eventOf(data)
    if (!event) return
    device.receive(event)
    this.telling ??= setTimeout(() => {
      this.telling = undefined
      this.tell()
    }, TELL_MS)
  }

  private tell(): void {
    this.parts.onPorts([...this.devices.values()].map(({ port }) => port))
  }
}
