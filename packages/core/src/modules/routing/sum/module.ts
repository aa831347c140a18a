import { choice, help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const sum: ModuleDescription = {
  type: 'sum',
  family: 'routing',
  label: 'Sum',
  part: 'sum',
  mark: 'M12 3H4l5 5-5 5h8',
  words: ['voices', 'many to one', 'merge', 'mono'],
  help: help(
    'All voices become one',
    'Adds the voices of what comes in. Balanced divides by the square root of their number, which keeps the loudness of independent voices about the same.',
    'Level −12…0 dB.',
    'Put it in front of a mono effect.',
  ),
  front: ['in', 'level', 'out'],
  headline: ['level'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [number('level', -60, 12, 0, 'dB', { silence: -60 }), choice('gain', ['sum', 'balanced'])],
  picture: 'signal',
  shape: { sumsVoices: true },
  frames: 'memoryless',
  bypass: { from: 'in', to: 'out' },
  cost: [7, 7, 0],
  bound: 29,
}
