import { choice, frequency, help, input, number, output, share, per } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const random: ModuleDescription = {
  type: 'random',
  family: 'modulators',
  label: 'Random',
  words: ['steps', 'turing', 'chaos', 'loop', 'shuffle', 'distribution'],
  help: help(
    'Random values at a clock, looped if wished',
    'Even spreads the values evenly, bell gathers them in the middle, edges at both ends. With a loop the same values come round again; change is the chance that one is replaced as it passes. Smooth moves on to each value within the time of a step.',
    'Loop 0, 4, 8 or 16; change 0…20 %.',
    'Send stepped through a quantiser to a voice, loop 8, change 10 %.',
  ),
  front: ['clock', 'rate', 'loop', 'stepped', 'smooth'],
  inputs: [input('clock', 'gate', 'its own clock'), input('reset', 'gate')],
  outputs: [output('stepped', 'control'), output('smooth', 'control'), output('trigger', 'gate')],
  params: [
    choice('distribution', ['even', 'bell', 'edges']),
    number('loop', 0, 32, 0, '', { whole: true, exact: true }),
    share('change', 0),
    choice('polarity', ['bipolar', 'unipolar']),
    frequency('rate', 2, 0.001, 2000),
    per,
  ],
  shape: { perVoice: { without: ['clock'] } },
  state: {
    kept: [
      'before',
      'resetBefore',
      'high',
      'low',
      'count',
      'place',
      'from',
      'to',
      'clocked',
      'loops',
      'period',
      'left',
      'filled',
      'values*32',
    ],
  },
  frames: 'sequential',
  bounded: true,
  bound: 40,
  sounds: true,
}
