import type { Untimed } from '@ypsilon/core'
import { engine } from './engine-client.ts'

export type MidiState =
  | { readonly kind: 'idle' }
  | { readonly kind: 'refused'; readonly message: string }
  | { readonly kind: 'open'; readonly inputs: readonly string[] }

/** System real-time messages that drive an external clock. */
const CLOCK: Readonly<Record<number, 'tick' | 'start' | 'stop' | 'continue'>> = {
  0xf8: 'tick',
  0xfa: 'start',
  0xfb: 'continue',
  0xfc: 'stop',
}

/** "All sound off": the control that silences everything. */
const ALL_SOUND_OFF = 120

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
      return a === ALL_SOUND_OFF
        ? { type: 'silence' }
        : { type: 'control', controller: a, value: b / 127, channel }
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

/** Reads one MIDI message into the engine: channel voice messages, the clock, all sound off. */
export const receiveMidi = (data: Uint8Array, device?: string): void => {
  const event = eventOf(data)
  if (event) engine.playByHand('Move a control', device, event)
}

/** Asks the browser for MIDI; its refusal comes back in words. */
export const openMidi = async (changed: (state: MidiState) => void): Promise<void> => {
  if (!('requestMIDIAccess' in navigator)) {
    changed({
      kind: 'refused',
      message: 'This browser has no MIDI. The computer keys and the keys on screen work all the same.',
    })
    return
  }
  try {
    const access = await navigator.requestMIDIAccess()
    const listen = (): void => {
      const inputs = [...access.inputs.values()]
      for (const input of inputs)
        input.onmidimessage = (event) => {
          if (event.data) receiveMidi(event.data, input.name ?? undefined)
        }
      changed({ kind: 'open', inputs: inputs.map((input) => input.name ?? 'MIDI input') })
    }
    access.onstatechange = listen
    listen()
  } catch {
    changed({
      kind: 'refused',
      message:
        "The browser did not allow MIDI. Allow it in the page's settings and try again; until then use the computer keys.",
    })
  }
}
