import { frequency, help, input, positive, toggle, tuning } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const phasor: ModuleDescription = {
  type: 'phasor',
  family: 'sources',
  label: 'Phasor',
  mark: 'M1 13L14 3v10M1 13h13',
  words: ['phase', 'ramp', 'counter', 'build an oscillator', 'timebase'],
  help: help(
    'A bare ramp from 0 to 1, to build oscillators from',
    'Runs at the frequency of its pitch, exactly; it is not band-limited, because it is meant to be shaped by formulas, curves and comparators. A rise at sync starts it over.',
    '0.001 Hz…20 kHz.',
    'Send it into a formula: x = sin(tau * a).',
  ),
  front: ['pitch', 'frequency', 'out'],
  headline: ['frequency'],
  stays: ['frequency', 'tracking'],
  inputs: [
    input('pitch', 'pitch', 'the frequency field'),
    input('hz', 'control'),
    input('sync', 'gate'),
    input('reset', 'gate'),
  ],
  outputs: [positive('out')],
  params: [
    frequency('frequency', 261.6256, 0.001, 20000, { factor: true }),
    toggle('tracking', true),
    ...tuning,
  ],
  picture: () => ({
    kind: 'line',
    title: 'Two cycles of the ramp',
    across: 'time',
    up: 'phase',
    curves: [
      {
        points: [
          [0, 0],
          [0.5, 1],
          [0.5, 0],
          [1, 1],
        ],
      },
    ],
  }),
  state: { kept: ['high', 'low', 'before', 'resetBefore'] },
  frames: 'sequential',
  bounded: true,
  cost: [39, 39, 37],
  bound: 23,
  sounds: true,
}
