/** Sound and MIDI as the browser gives them. */
import { createStore, type StoreApi } from 'zustand'
import type { SoundState } from '../audio/engine-client.ts'
import type { Output } from '../audio/output.ts'
import type { MidiPort, MidiState } from '../audio/midi.ts'

export interface DevicesState {
  readonly sound: SoundState
  readonly midi: MidiState
  readonly ports: readonly MidiPort[]
  /** The audio input is open. */
  readonly hasInput: boolean
  /** Devices the browser names, and which of them plays: none is the system's. */
  readonly outputs: readonly Output[]
  readonly output: string
  setSound(sound: SoundState): void
  setMidi(midi: MidiState): void
  setPorts(ports: readonly MidiPort[]): void
  setInput(hasInput: boolean): void
  setOutputs(outputs: readonly Output[], output: string): void
}
export type DevicesStore = StoreApi<DevicesState>

export const createDevicesStore = (): DevicesStore =>
  createStore<DevicesState>()((set) => ({
    sound: 'off',
    midi: { kind: 'idle' },
    ports: [],
    hasInput: false,
    outputs: [],
    output: '',
    setSound(sound) {
      set({ sound })
    },
    setMidi(midi) {
      set({ midi })
    },
    setPorts(ports) {
      set({ ports })
    },
    setInput(hasInput) {
      set({ hasInput })
    },
    setOutputs(outputs, output) {
      set({ outputs, output })
    },
  }))
