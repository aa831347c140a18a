/** The composition root: makes everything a page is made of, and ties it together. */
import { takeRecording } from '../files/take-in.ts'
import { faultText, oneLine, type Patch } from '@ypsilon/core'
import kernelsUrl from '@ypsilon/core/generated/kernels.wasm?url'
import { EngineClient } from '../audio/engine-client.ts'
import { Keyboard } from '../audio/keyboard.ts'
import { Midi } from '../audio/midi.ts'
import { SoundOutput } from '../audio/output.ts'
import { readInWorker } from '../audio/sound-reader.ts'
import workletUrl from '../audio/worklet.ts?worker&url'
import { Frames } from '../bench/frames.ts'
import { COMMANDS } from '../commands/all.ts'
import { leaveLostGroups } from './level.ts'
import { Registry } from '../commands/registry.ts'
import { download } from '../files/download.ts'
import { exportText } from '../files/export.ts'
import { audioAssets, AudioStore } from '../kept/audio-store.ts'
import { type Notebook, notebookOver, openDatabase, openOldBenches } from '../kept/database.ts'
import { Documents } from '../kept/documents.ts'
import { browserLocks } from '../kept/locks.ts'
import { pageClock } from '../services/clock.ts'
import { type Notifier, toastNotifier } from '../services/notifier.ts'
import { Tidier } from '../services/tidier.ts'
import { Desk } from '../store/desk.ts'
import { createDevicesStore } from '../store/devices.ts'
import { createDocumentStore, type DocumentStore } from '../store/document.ts'
import { createDocumentsStore, roomWords } from '../store/documents.ts'
import { TabNotes } from '../store/opening.ts'
import { createProbeStore } from '../store/probe.ts'
import { createTakesStore, recoverTakes } from '../store/takes.ts'
import { createTransportStore, followReports } from '../store/transport.ts'
import { createWorkspaceStore } from '../store/workspace.ts'
import type { App } from './app.ts'
import { noChart } from './chart.ts'
import { demos, templates } from './demos.ts'
import { LastHand } from './last-hand.ts'
import { watchOverruns } from './load.ts'
import { followTheme } from './theme.ts'

/** Resolves when what was set before is on the screen. */
const shown = (): Promise<void> =>
  new Promise((resolve) => {
    // A hidden page draws nothing: it does not wait for that.
    const timer = setTimeout(resolve, 100)
    requestAnimationFrame(() =>
      setTimeout(() => {
        clearTimeout(timer)
        resolve()
      }),
    )
  })

const fetchKernels = async (): Promise<ArrayBuffer> => {
  const response = await fetch(kernelsUrl)
  if (!response.ok) throw new Error(`The engine could not be loaded (${response.status}); reload the page`)
  return response.arrayBuffer()
}

/** Reads the audio a patch names, and says what is not here. */
const audioBringer =
  (audio: AudioStore, engine: EngineClient, notifier: Notifier) =>
  async (patch: Patch): Promise<void> => {
    if (audioAssets(patch).length === 0) return
    const missing = await audio.load(patch)
    if (missing.length > 0)
      notifier.warning(
        `The audio of ${missing.map(oneLine).join(', ')} is not in this browser, or cannot be read; what needs it is silent.`,
        { description: 'Open the archive (.ypatch.zip) it came with.' },
      )
    engine.reloadAssets()
  }

/** The engine, its keys and MIDI. */
const createSound = (audio: AudioStore, notebook: Notebook, notifier: Notifier) => {
  // Asked for as soon as there is a page, long before the first gesture.
  const kernels = fetchKernels()
  kernels.catch(() => undefined)
  const engine = new EngineClient({
    kernels: () => kernels,
    workletUrl,
    soundsFor: (patch) => audio.soundsFor(patch),
    clock: pageClock,
    onContext: (context) => void output.use(context),
  })
  const keyboard = new Keyboard(engine, (error) => {
    notifier.error(`Sound could not start: ${error instanceof Error ? error.message : String(error)}`)
  })
  const devices = createDevicesStore()
  const midi = new Midi({
    play: (device, event) => void engine.playByHand('Move a control', device, event),
    show: (note, isOn) => {
      keyboard.show(note, isOn)
    },
    onPorts: (ports) => {
      devices.getState().setPorts(ports)
    },
    now: () => pageClock.now(),
  })
  const output: SoundOutput = new SoundOutput({
    media: navigator.mediaDevices,
    notebook,
    onOutputs: (outputs, id) => {
      devices.getState().setOutputs(outputs, id)
    },
    onGone: () => {
      notifier.warning('The sound device is gone; the one of the system plays until it is back.')
    },
  })
  engine.onSound = (sound) => {
    devices.getState().setSound(sound)
  }
  void midi.wasAllowed().then(async (isAllowed) => {
    if (isAllowed) devices.getState().setMidi(await midi.open())
  })
  return { engine, keyboard, devices, midi, output }
}

/** What the engine tells goes where it is shown, as long as there is a page. */
const connect = (app: App): void => {
  const { engine, document, transport, notifier } = app
  engine.onFaults = (faults) => {
    notifier.error(faults.map(faultText).join('\n'))
  }
  engine.onHand = (name, before, after) => {
    document.getState().moved(name, before, after)
  }
  let drawn = 0
  engine.onMove = () => {
    drawn ||= requestAnimationFrame(() => {
      drawn = 0
      const { values, data, bypass } = engine.moves()
      const moved = [values, data, bypass].reduce((sum, record) => sum + Object.keys(record).length, 0)
      transport.getState().setMoved(moved)
    })
  }
  engine.onStall = (kind) => {
    const { name } = document.getState().patch
    if (kind === 'anew')
      notifier.warning('The sound stopped answering and was begun anew, with the patch as it stands.', {
        duration: 12000,
      })
    else
      notifier.error(
        `${name} stops the sound each time it is played. It is held silent until you change it.`,
        {
          description: 'Undo the last step or bypass what you changed last.',
          action: {
            label: 'Play it again',
            onClick: () => {
              engine.playHeld()
            },
          },
          duration: 60000,
        },
      )
  }
  let isTold = false
  app.documents.subscribe((state) => {
    const words = roomWords(state)
    if (words !== undefined && !isTold)
      notifier.warning('The browser has little room left for what is kept here.', {
        description: words,
        duration: 30000,
      })
    isTold = words !== undefined
  })
  app.workspace.subscribe(({ listening }, before) => {
    if (listening !== before.listening) engine.listen(listening?.heard)
  })
  followReports(transport, engine)
  watchOverruns(app)
  followTheme(app.workspace, app.frames)
}

/** The stores of a page and what they are kept by. */
const createStores = (notifier: Notifier) => {
  const database = openDatabase(),
    notebook = notebookOver(() => localStorage),
    locks = browserLocks(),
    clock = pageClock
  const audio = new AudioStore(database.audio, clock, readInWorker, () => sound.engine.sampleRate)
  const kept = new Documents({ database, notebook, clock })
  const documents = createDocumentsStore(kept)
  const onListed = (): void => void documents.getState().refresh()
  const workspace = createWorkspaceStore(notebook)
  const sound = createSound(audio, notebook, notifier)
  const { engine } = sound
  const document: DocumentStore = createDocumentStore({
    engine,
    notifier,
    onStep: (step, replacesLast, before) => {
      desk.keeping.onStep(step, replacesLast, before)
    },
  })
  const keepAudio = (bytes: Uint8Array): Promise<string> => audio.keep(bytes)
  const all = demos(keepAudio)
  const desk = new Desk({
    documents: kept,
    notebook,
    locks,
    clock,
    notifier,
    engine,
    notes: new TabNotes(notebookOver(() => sessionStorage)),
    store: () => document,
    demos: all,
    templates: templates(keepAudio),
    shown,
    bringAudio: audioBringer(audio, engine, notifier),
    exportText,
    onListed,
  })
  const takesParts = {
    engine,
    documents: kept,
    audio,
    locks,
    clock,
    notifier,
    patchName: () => document.getState().patch.name,
    download,
    onListed,
  }
  const takes = createTakesStore(takesParts)
  /** What was left over from earlier visits; nothing waits for it. */
  const tidy = async (): Promise<void> => {
    await kept.takeOldBenches(openOldBenches())
    await recoverTakes(takesParts)
    await kept.tidy()
    onListed()
  }
  return { ...sound, clock, audio, kept, documents, workspace, document, desk, takes, tidy, demos: all }
}

export interface Running {
  readonly app: App
  /** Resolves when a patch is on the bench. */
  readonly ready: Promise<void>
}

/** Makes a page. */
export const createApp = (): Running => {
  const notifier = toastNotifier
  const { tidy, ...stores } = createStores(notifier),
    lastHand = new LastHand()
  const app: App = {
    ...stores,
    notifier,
    tidier: new Tidier(),
    frames: new Frames({
      picture: (key) => stores.engine.picture(key),
      movedValue: (target) => stores.engine.movedValue(target),
      watchMoved: (keys) => {
        stores.engine.pictures.watchMoved(keys)
      },
    }),
    transport: createTransportStore(stores.engine),
    probe: createProbeStore(),
    download,
    lastHand,
    afterMenu: (event) => {
      const { dialog, finder, connecting } = app.workspace.getState()
      const isTaken = dialog !== undefined || finder !== undefined || connecting !== undefined
      // What was chosen has opened something that has the focus already.
      if (isTaken || lastHand.isMouse) event.preventDefault()
      if (!isTaken && lastHand.isMouse) app.chart.focus()
    },
    takeRecording: (file, module) => takeRecording(app, file, module),
    commands: new Registry(COMMANDS),
    chart: noChart(),
    chooseFiles: () => undefined,
    goTo: () => undefined,
  }
  connect(app)
  leaveLostGroups(app)
  const ready = app.desk.start()
  void ready.then(() => app.documents.getState().refresh()).then(() => tidy().catch(() => undefined))
  return { app, ready }
}
