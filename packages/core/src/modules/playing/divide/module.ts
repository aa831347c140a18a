import { help, input, number, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const divide: ModuleDescription = {
  type: 'divide',
  family: 'playing',
  label: 'Divider',
  mark: 'M2 4v8M5 4v4M8 4v4M11 4v4M14 4v8',
  words: ['clock divider', 'multiplier', 'ratio', 'every nth', 'ratchet'],
  help: help(
    'Every nth clock, or several to each',
    'Divide lets every nth clock through, multiply makes several of one by the time between the last two. Offset waits for so many clocks first. Width is how long the gate is on, as a share of its own length.',
    'Divide 2…16, multiply 2…4.',
    'Divide a beat by 8 to change chords.',
  ),
  front: ['clock', 'divide', 'multiply', 'out'],
  headline: ['divide', 'multiply'],
  inputs: [input('clock', 'gate'), input('reset', 'gate')],
  outputs: [output('out', 'gate')],
  params: [
    number('divide', 1, 64, 2, '', { whole: true, exact: true }),
    number('multiply', 1, 32, 1, '', { whole: true, exact: true }),
    number('offset', 0, 63, 0, '', { whole: true, exact: true }),
    share('width', 0.5, 0.01, 0.99),
  ],
  picture: 'signal',
  state: { kept: ['before', 'resetBefore', 'count', 'since', 'period', 'index', 'high'] },
  frames: 'sequential',
  cost: [66, 180, 180],
  bound: 95,
}
