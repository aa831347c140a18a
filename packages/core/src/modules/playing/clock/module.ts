import {
  choice,
  help,
  input,
  NOTE_VALUES,
  number,
  output,
  positive,
  share,
} from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const clock: ModuleDescription = {
  type: 'clock',
  family: 'playing',
  label: 'Clock',
  mark: 'M2 8a6 6 0 1 0 12 0a6 6 0 1 0-12 0M8 5v3l2 2',
  words: ['tempo', 'beat', 'transport', 'bpm', 'sync', 'swing', 'pulse', 'metronome'],
  help: help(
    'Beats and note values',
    'Follows the patch’s tempo and transport, an own tempo (which may be modulated and keeps its count), or a clock from outside. Four outputs give gates at note values; swing moves every second one later by that share of its length, width is how long they are on. A rise at reset starts counting anew.',
    'Swing 0…33 % (a triplet feel).',
    'Connect div 3 (1/8) to a step sequence.',
  ),
  front: ['tempo', 'division1', 'beat', 'div1', 'div2'],
  headline: ['tempo', 'division1'],
  stays: ['source'],
  inputs: [input('reset', 'gate')],
  outputs: [
    output('beat', 'gate'),
    output('bar', 'gate'),
    positive('phase'),
    output('run', 'gate'),
    output('start', 'gate'),
    ...[1, 2, 3, 4].map((n) => output(`div${n}`, 'gate')),
  ],
  params: [
    choice('source', ['patch', 'own', 'external']),
    number('tempo', 20, 300, 120, 'bpm', { log: true }),
    ...[['1/4'], ['1/8'], ['1/16'], ['1/8t']].map(([word], n) =>
      choice(`division${n + 1}`, NOTE_VALUES, word),
    ),
    number('swing', 0, 0.75, 0, '%'),
    share('width', 0.5, 0.01, 0.99),
  ],
  picture: 'signal',
  state: {
    kept: [
      'before',
      'startLeft',
      'startsSeen',
      'ownLow',
      'ownHigh',
      'fromLow',
      'fromHigh',
      'indices*6',
      'highs*6',
    ],
  },
  cost: [110, 110, 0.046],
  bound: 170,
  sounds: true,
}
