import { help, input, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const join: ModuleDescription = {
  type: 'join',
  family: 'routing',
  label: 'Join',
  mark: 'M1 4h5l4 4h5M1 12h5l4-4',
  words: ['mono to stereo', 'left', 'right', 'sides'],
  help: help(
    'Left and right become stereo',
    'Puts two mono cables side by side in one, for every voice. A stereo cable is folded to mono first.',
    'None.',
    'Join two slightly detuned oscillators.',
  ),
  front: ['left', 'right', 'out'],
  headline: [],
  inputs: [input('left', 'audio'), input('right', 'audio')],
  outputs: [output('out', 'audio', 2)],
  params: [],
  adds: true,
  picture: 'signal',
  shape: { sides: 1 },
  cost: [4.2, 5.4, 3.8],
  bound: 1.3,
}
