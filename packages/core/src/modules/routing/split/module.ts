import { help, input, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const split: ModuleDescription = {
  type: 'split',
  family: 'routing',
  label: 'Split',
  mark: 'M1 8h5l4-4h5M6 8l4 4h5',
  words: ['stereo to mono', 'left', 'right', 'sides'],
  help: help(
    'Stereo becomes left and right',
    'Takes the sides of a stereo cable apart, for every voice. A mono cable gives the same on both.',
    'None.',
    'Delay one side by 12 ms and join them again.',
  ),
  front: ['in', 'left', 'right'],
  headline: [],
  inputs: [input('in', 'audio')],
  outputs: [output('left', 'audio', 1), output('right', 'audio', 1)],
  params: [],
  picture: 'signal',
  shape: { sides: 2 },
  cost: [7.1, 7.1, 2.1],
  bound: 4.9,
}
