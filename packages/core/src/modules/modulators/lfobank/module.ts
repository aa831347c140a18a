import { choice, frequency, help, input, level, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const lfobank: ModuleDescription = {
  type: 'lfobank',
  family: 'modulators',
  label: 'LFO bank',
  mark: 'M1 5c2-4 5-4 7 0s5 4 7 0M1 11c1-3 3-3 4 0s3 3 4 0 3-3 4 0 1 1 2 1',
  words: ['several lfos', 'related rates', 'slow', 'phases', 'movement'],
  help: help(
    'Eight slow waves at related rates',
    'Each output runs at the rate of the one before times the ratio; spread sets their phases apart. A rise at reset starts all over.',
    'Rate 0.05…1 Hz, ratio 0.7…0.95.',
    'Take four outputs to the levels of four partials.',
  ),
  front: ['rate', 'ratio', 'out1', 'out2', 'out3'],
  headline: ['rate', 'ratio'],
  inputs: [input('reset', 'gate')],
  outputs: [1, 2, 3, 4, 5, 6, 7, 8].map((n) => output(`out${n}`, 'control')),
  params: [
    frequency('rate', 0.2, 0.001, 200),
    { ...frequency('ratio', 0.8, 0.5, 2), unit: '' },
    share('spread', 0),
    choice('shape', ['sine', 'triangle', 'saw', 'fall', 'square']),
    choice('polarity', ['bipolar', 'unipolar']),
    level(),
  ],
  picture: (context) => ({
    kind: 'bars',
    title: 'Rates of the eight outputs',
    across: 'output',
    up: 'rate',
    curves: [
      {
        points: Array.from({ length: 8 }, (_, n) => {
          const rates = context.number('ratio') ** n
          const most = Math.max(1, context.number('ratio') ** 7)
          return [(n + 0.5) / 8, rates / most] as const
        }),
      },
    ],
  }),
  state: { kept: ['before', 'phases*16'] },
  frames: 'sequential',
  bounded: true,
  cost: [210, 200, 200],
  bound: 260,
  sounds: true,
}
