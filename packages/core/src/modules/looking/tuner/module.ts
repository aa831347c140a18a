import { help, input, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const tuner: ModuleDescription = {
  type: 'tuner',
  family: 'looking',
  label: 'Tuner',
  mark: 'M8 2v12M3 6l2 2-2 2M13 6l-2 2 2 2',
  words: ['pitch', 'in tune', 'cents', 'note', 'look'],
  help: help(
    'Shows the pitch of what passes through',
    'What comes in goes out unchanged; the card shows its note and how far it is off.',
    'None.',
    'Put it behind a string to tune its trim.',
  ),
  front: ['in', 'out'],
  headline: [],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [],
  picture: 'signal',
  frames: 'memoryless',
  bypass: { from: 'in', to: 'out' },
  cost: [2.5, 2.5, 1.7],
  bound: 1,
}
