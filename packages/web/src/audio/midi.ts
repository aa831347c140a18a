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

/** Reads one MIDI message into the engine. Channel voice messages and the clock. */
export const receiveMidi = (data: Uint8Array): void => {
  const [status = 0, a = 0, b = 0] = data
  const kind = status & 0xf0,
    channel = (status & 15) + 1
  const clock = CLOCK[status]
  if (clock) engine.send({ type: 'clock', value: clock })
  else if (kind === 0x90 && b > 0)
    engine.send({ type: 'on', note: a, velocity: b / 127, id: channel * 128 + a, channel })
  else if (kind === 0x80 || kind === 0x90)
    engine.send({ type: 'off', note: a, id: channel * 128 + a, velocity: b / 127 })
  else if (kind === 0xa0) engine.send({ type: 'pressure', note: a, value: b / 127, channel })
  else if (kind === 0xb0) engine.send({ type: 'control', controller: a, value: b / 127, channel })
  else if (kind === 0xd0) engine.send({ type: 'pressure', value: a / 127, channel })
  else if (kind === 0xe0)
    engine.send({ type: 'bend', value: Math.max(-1, ((b << 7) + a - 8192) / 8191), channel })
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
          if (event.data) receiveMidi(event.data)
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
