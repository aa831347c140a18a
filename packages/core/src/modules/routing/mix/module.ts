import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const mix: ModuleDescription = {
  type: 'mix',
  family: 'routing',
  label: 'Mix',
  mark: 'M1 3h4l4 5h6M1 13h4l4-5M1 8h8',
  words: [
    'attenuator',
    'attenuverter',
    'mixer, small',
    'add',
    'sum',
    'attenuvert',
    'offset',
    'invert',
    'combine',
  ],
  help: help(
    'Adds four signals, each with an amount',
    'Works on sound and on control alike. Negative amounts turn a signal over; the offset moves the sum.',
    'Amounts 0…1; −1 inverts.',
    'Mix two oscillators before one filter.',
  ),
  front: ['in1', 'in2', 'amount1', 'amount2', 'out'],
  headline: ['amount1', 'amount2'],
  inputs: [1, 2, 3, 4].map((n) => input(`in${n}`, 'audio')),
  outputs: [output('out', 'audio'), output('inverse', 'audio')],
  params: [
    ...[1, 2, 3, 4].map((n) => number(`amount${n}`, -2, 2, 1, '', { label: `Amount ${n}` })),
    number('offset', -5, 5, 0, ''),
  ],
  // Worked out anew before a segment runs frame by frame.
  adds: true,
  picture: 'signal',
  state: { kept: ['lines*3'] },
  bypass: { from: 'in1', to: 'out' },
  cost: [14, 14, 13],
  bound: 2.2,
}
