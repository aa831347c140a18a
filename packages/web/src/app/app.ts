/** The composition root's parts: everything a page is made of, made once and handed on. */
import type { EngineClient } from '../audio/engine-client.ts'
import type { Keyboard } from '../audio/keyboard.ts'
import type { Midi } from '../audio/midi.ts'
import type { SoundOutput } from '../audio/output.ts'
import type { Frames } from '../bench/frames.ts'
import type { Registry } from '../commands/registry.ts'
import type { AudioStore } from '../kept/audio-store.ts'
import type { Documents } from '../kept/documents.ts'
import type { Clock } from '../kept/keeper.ts'
import type { Notifier } from '../services/notifier.ts'
import type { Tidier } from '../services/tidier.ts'
import type { Demo, Desk } from '../store/desk.ts'
import type { DevicesStore } from '../store/devices.ts'
import type { DocumentStore } from '../store/document.ts'
import type { DocumentsStore } from '../store/documents.ts'
import type { ProbeStore } from '../store/probe.ts'
import type { TakesStore } from '../store/takes.ts'
import type { TransportStore } from '../store/transport.ts'
import type { WorkspaceStore } from '../store/workspace.ts'
import type { Chart } from './chart.ts'
import type { LastHand } from './last-hand.ts'

export interface App {
  readonly engine: EngineClient
  readonly frames: Frames
  readonly keyboard: Keyboard
  readonly midi: Midi
  readonly output: SoundOutput
  readonly notifier: Notifier
  readonly clock: Clock
  readonly audio: AudioStore
  /** Lays patches out. */
  readonly tidier: Tidier
  /** What is kept, and the list of it. */
  readonly kept: Documents
  readonly documents: DocumentsStore
  /** What comes to the bench and leaves it. */
  readonly desk: Desk
  readonly document: DocumentStore
  readonly workspace: WorkspaceStore
  readonly transport: TransportStore
  /** What the probe looks at. */
  readonly probe: ProbeStore
  readonly devices: DevicesStore
  readonly takes: TakesStore
  readonly commands: Registry
  readonly demos: readonly Demo[]
  /** Who acted last: the mouse or the keyboard. */
  readonly lastHand: LastHand
  /** For what closes over the page: the mouse's focus goes to the chart, the keyboard's back to where it was. */
  readonly afterMenu: (event: Event) => void
  /** What the chart does while it is on the page. */
  readonly chart: Chart
  /** Brings a recording from a file to a module. */
  readonly takeRecording: (file: File, module: string) => Promise<void>
  /** Hands a file to the browser's downloads. */
  readonly download: (name: string, blob: Blob) => void
  /** Opens the browser's dialog for files; set by the page's file input. */
  chooseFiles: () => void
  /** Goes to another view; set by the router. */
  goTo: (path: string) => void
}
