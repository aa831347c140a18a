import { help, input, level, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const multiply: ModuleDescription = {
  type: 'multiply',
  family: 'level',
  label: 'Multiply',
  mark: 'M4 4l8 8M12 4l-8 8',
  words: [
    'ring mod',
    'ring modulator',
    'ring modulation',
    'amplitude modulation',
    'am',
    'product',
    'tremolo',
  ],
  help: help(
    'Ring and amplitude modulation',
    'Multiplies a by b: two tones become their sum and difference. At half depth the carrier stays, as in amplitude modulation.',
    'Depth 50 % for AM, 100 % for a ring.',
    'Connect two sine oscillators a fifth apart.',
  ),
  front: ['a', 'b', 'depth', 'out'],
  headline: ['depth'],
  inputs: [input('a', 'audio'), input('b', 'audio')],
  outputs: [output('out', 'audio')],
  params: [share('depth', 1), level()],
  picture: 'signal',
  frames: 'memoryless',
  bypass: { from: 'a', to: 'out' },
  cost: [5.1, 5.1, 4.8],
  bound: 1.8,
}
