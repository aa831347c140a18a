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
    id: 'silence',
    label: 'Silence everything',
    group: 'Play',
    keys: ['Escape Escape'],
    run: (app) => {
      app.keyboard.releaseAll()
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
  {
    id: 'octave-down',
    label: 'Keys an octave down',
    group: 'Play',
    keys: ['Z'],
    run: (app) => {
      app.keyboard.down('KeyZ')
    },
  },
  {
    id: 'octave-up',
    label: 'Keys an octave up',
    group: 'Play',
    keys: ['X'],
    run: (app) => {
      app.keyboard.down('KeyX')
    },
  },
  {
    id: 'softer',
    label: 'Keys softer',
    group: 'Play',
    keys: ['N'],
    run: (app) => {
      app.keyboard.down('KeyN')
    },
  },
  {
    id: 'louder',
    label: 'Keys louder',
    group: 'Play',
    keys: ['M'],
    run: (app) => {
      app.keyboard.down('KeyM')
    },
  },
  ...['1', '2', '3', '4', '5', '6', '7', '8', '9'].map(recall),
]
