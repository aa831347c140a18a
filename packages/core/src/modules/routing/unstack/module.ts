import { help, input, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const unstack: ModuleDescription = {
  type: 'unstack',
  family: 'routing',
  label: 'Unstack',
  mark: 'M2 4l6-2 6 2-6 2zM8 8v6M5 11l3 3 3-3',
  words: ['voices', 'voices to cables', 'separate', 'single voice'],
  help: help(
    'The voices of one cable become single cables',
    'Out 1 is voice 1, out 2 voice 2 and so on up to eight; voices that do not exist are 0.',
    'Up to eight voices.',
    'Take two voices apart and pan them by hand.',
  ),
  front: ['in', 'out1', 'out2'],
  headline: [],
  inputs: [input('in', 'audio')],
  outputs: [1, 2, 3, 4, 5, 6, 7, 8].map((n) => ({ ...output(`out${n}`, 'audio'), voices: 1 as const })),
  params: [],
  picture: 'signal',
  shape: { endsVoices: true },
  cost: [2.9, 4.8, 0.01],
  bound: 1,
}
