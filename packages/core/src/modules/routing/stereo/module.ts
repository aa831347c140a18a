import { help, input, number, output, toggle } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const stereo: ModuleDescription = {
  type: 'stereo',
  family: 'routing',
  label: 'Stereo',
  mark: 'M2 8a4 4 0 1 0 8 0a4 4 0 1 0-8 0M6 8a4 4 0 1 0 8 0a4 4 0 1 0-8 0',
  words: ['width', 'mid side', 'mono', 'rotate', 'swap'],
  help: help(
    'Width and direction of a stereo sound',
    'Width 0 is mono, 1 as it was, 2 twice as wide. Rotate turns the whole image, ±1 being an eighth of a turn. Mid and side are half the sum and half the difference of what comes in.',
    'Width 0…1.5.',
    'Narrow the low layer to width 0.3.',
  ),
  front: ['in', 'width', 'out'],
  headline: ['width'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio', 2), output('mid', 'audio', 2), output('side', 'audio', 2)],
  params: [number('width', 0, 2, 1, ''), number('rotate', -1, 1, 0, ''), toggle('swap', false)],
  picture: 'signal',
  shape: { sides: 2 },
  frames: 'memoryless',
  bypass: { from: 'in', to: 'out' },
  cost: [41, 41, 40],
  bound: 14,
}
