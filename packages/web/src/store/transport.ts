/** Playing as the page shows it: the transport, silence, the ear guard, what was moved. */
import { createStore, type StoreApi } from 'zustand'
import type { Report } from '../audio/messages.ts'

/** What the transport needs of the engine. */
export interface TransportEngine {
  readonly isRunning: boolean
  start(): Promise<void>
  setTransport(running: boolean): void
  setGuard(active: boolean): void
  silence(): void
  playOn(): void
  subscribe(listener: (report: Report) => void): () => void
}

export interface TransportState {
  readonly isRunning: boolean
  /** Everything was silenced until somebody plays. */
  readonly isSilenced: boolean
  readonly hasGuard: boolean
  /** How much lies over the document: moved values, lists and bypasses. */
  readonly moved: number
  toggle(): void
  /** Everything is quiet until somebody plays. */
  silence(): void
  playOn(): void
  setGuard(hasGuard: boolean): void
  setMoved(moved: number): void
}
export type TransportStore = StoreApi<TransportState>

export const createTransportStore = (engine: TransportEngine): TransportStore => {
  const store: TransportStore = createStore<TransportState>()((set, get) => ({
    isRunning: true,
    isSilenced: false,
    hasGuard: true,
    moved: 0,
    toggle() {
      // Whoever starts the sound with it wants to hear it run.
      const isRunning = engine.isRunning ? !get().isRunning : true
      void engine.start()
      set({ isRunning })
      engine.setTransport(isRunning)
    },
    silence() {
      engine.silence()
    },
    playOn() {
      engine.playOn()
    },
    setGuard(hasGuard) {
      engine.setGuard(hasGuard)
      set({ hasGuard })
    },
    setMoved(moved) {
      if (moved !== get().moved) set({ moved })
    },
  }))
  return store
}

/** Shows what the engine reports. Given back: how to stop that. */
export const followReports = (store: TransportStore, engine: TransportEngine): (() => void) =>
  engine.subscribe(({ silenced }) => {
    if (silenced !== store.getState().isSilenced) store.setState({ isSilenced: silenced })
  })
