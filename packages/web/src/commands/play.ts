/** Commands that are heard. */
import type { App } from '../app/app.ts'
import type { Command } from './command.ts'

const hasMoves = (app: App): true | string =>
  app.transport.getState().moved > 0 || 'Nothing was moved by controls or snapshots.'

const recall = (key: string): Command => ({
  id: `recall-${key}`,
  label: `Recall snapshot ${key}`,
  group: 'Play',
  keys: [key],
  can: (app) =>
    app.document.getState().patch.snapshots?.some((item) => item.key === key) === true ||
    `No snapshot has the key ${key}.`,
  run: (app) => {
    const snapshot = app.document.getState().patch.snapshots?.find((item) => item.key === key)
    if (!snapshot) return
    void app.engine.start()
    app.engine.playByHand(`Recall ${snapshot.name}`, undefined, { type: 'snapshot', target: snapshot.id })
  },
})

/** What a letter's place does to the computer keys, also for who chooses it by name. */
const keysChange = (id: string, label: string, letter: string): Command => ({
  id,
  label,
  group: 'Play',
  keys: [letter],
  run: (app) => {
    app.keyboard.down(`Key${letter}`)
  },
})

export const PLAY_COMMANDS: readonly Command[] = [
  {
    id: 'transport',
    label: 'Start or stop the transport',
    group: 'Play',
    keys: ['Space'],
    run: (app) => {
      app.transport.getState().toggle()
    },
  },
  {
    id: 'test-note',
    label: 'Play a test note',
    group: 'Play',
    keys: ['Shift+Space'],
    places: ['chart'],
    run: (app) => {
      app.keyboard.test()
    },
  },
  {
    id: 'repeat-test-note',
    label: 'Repeat the test note, or stop',
    group: 'Play',
    keys: ['Ctrl+Shift+Space'],
    places: ['chart'],
    run: (app) => {
      app.keyboard.repeat(!app.keyboard.snapshot().isRepeating)
    },
  },
  {
    id: 'latch',
    label: 'Hold notes (latch), or let them go',
    group: 'Play',
    keys: ['Ctrl+Alt+H'],
    places: ['chart'],
    run: (app) => {
      app.keyboard.latch(!app.keyboard.snapshot().isLatched)
    },
  },
  {
    id: 'silence',
    label: 'Silence everything',
    group: 'Play',
    keys: ['Escape Escape'],
    run: (app) => {
      app.keyboard.silence()
      app.transport.getState().silence()
    },
  },
  {
    id: 'play-on',
    label: 'Play on',
    group: 'Play',
    can: (app) => app.transport.getState().isSilenced || 'Nothing is silenced.',
    run: (app) => {
      app.transport.getState().playOn()
    },
  },
  {
    id: 'record',
    label: 'Record the output, or stop',
    group: 'Play',
    run: (app) => {
      void app.takes.getState().toggle()
    },
  },
  {
    id: 'keep-as-set',
    label: 'Keep as set',
    group: 'Play',
    keys: ['Ctrl+Enter'],
    views: ['bench'],
    can: hasMoves,
    run: (app) => {
      app.document.getState().keepAsSet()
    },
  },
  {
    id: 'back-to-set',
    label: 'Back to set',
    group: 'Play',
    keys: ['Ctrl+Backspace'],
    views: ['bench'],
    can: hasMoves,
    run: (app) => {
      app.document.getState().backToSet()
    },
  },
  keysChange('octave-down', 'Keys an octave down', 'Z'),
  keysChange('octave-up', 'Keys an octave up', 'X'),
  keysChange('softer', 'Keys softer', 'N'),
  keysChange('louder', 'Keys louder', 'M'),
  ...['1', '2', '3', '4', '5', '6', '7', '8', '9'].map(recall),
]
