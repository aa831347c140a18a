import { create } from 'zustand'
import type { MidiState } from '../audio/midi.ts'

export type Theme = 'system' | 'day' | 'night'

/** What a theme means here and now. */
export const isNight = (theme: Theme): boolean =>
  theme === 'night' || (theme === 'system' && window.matchMedia('(prefers-color-scheme: dark)').matches)
export interface Take {
  readonly id: number
  readonly name: string
  readonly rate: number
  readonly left: Float32Array
  readonly right: Float32Array
  readonly at: number
}
export interface Finder {
  readonly x: number
  readonly y: number
  /** Client position of the panel. */ readonly left: number
  readonly top: number
  /** `osc.saw`: the new module is wired to it. */ readonly from?: string
  readonly to?: string
  /** The card it was dropped on: its inputs are offered. */ readonly card?: string
}

interface SessionState {
  readonly selection: readonly string[]
  readonly cable: string | undefined
  readonly theme: Theme
  readonly drawer: boolean
  readonly inspector: boolean
  readonly dock: boolean
  readonly dockTab: 'probe' | 'keys'
  readonly finder: Finder | undefined
  readonly probe: string | undefined
  readonly open: ReadonlySet<string>
  readonly soundOn: boolean
  readonly running: boolean
  readonly guard: boolean
  readonly recording: boolean
  readonly takes: readonly Take[]
  readonly midi: MidiState
  readonly shortcuts: boolean
  /** The line for connecting by typing is open. */
  readonly connecting: boolean
  /** How much lies over the document: moved values, lists and bypasses. */
  readonly moved: number
  /** Everything was silenced until somebody plays. */
  readonly silenced: boolean
  select(ids: readonly string[]): void
  set(state: Partial<SessionState>): void
}

export const useSession = create<SessionState>()((set) => ({
  selection: [],
  cable: undefined,
  theme: 'system',
  drawer: true,
  inspector: true,
  dock: true,
  dockTab: 'probe',
  finder: undefined,
  probe: undefined,
  open: new Set(),
  soundOn: false,
  running: true,
  guard: true,
  recording: false,
  takes: [],
  midi: { kind: 'idle' },
  shortcuts: false,
  connecting: false,
  moved: 0,
  silenced: false,
  select(ids) {
    set({ selection: ids, cable: undefined })
  },
  set(state) {
    set(state)
  },
}))
