import { choice, help, number, output } from '../../../describe/helpers.ts'
import { AUX_BYTES } from '../../../kernels/boundary.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const input: ModuleDescription = {
  type: 'input',
  family: 'sources',
  label: 'Input',
  mark: 'M8 8h7M12 5l3 3-3 3M6 4v8M3 2v12',
  short: 'in',
  words: ['microphone', 'line', 'audio in', 'external', 'record'],
  help: help(
    'Sound from outside: the device or a file',
    'Both sides of the audio input, or of the file given to a render.',
    'Level 1 leaves the input as it is.',
    'Connect out to a filter and play through it.',
  ),
  front: ['level', 'out'],
  headline: ['level'],
  stays: 'all',
  inputs: [],
  outputs: [output('out', 'audio', 2)],
  params: [number('level', 0, 4, 1, ''), choice('from', ['device', 'file'])],
  picture: 'signal',
  shape: { sides: 2 },
  memory: () => AUX_BYTES,
  role: 'input',
  cost: [3.2, 3, 0.018],
  bound: 3.6,
}
