import { choice, help, input, number, output, seconds, share } from '../../../describe/helpers.ts'
import { barPoints } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const fan: ModuleDescription = {
  type: 'fan',
  family: 'modulators',
  label: 'Fan',
  mark: 'M2 8l12-6M2 8l12-2M2 8l12 2M2 8l12 6',
  words: ['spread', 'centre and width', 'distribute', 'macro', 'several at once'],
  help: help(
    'One movement spread over many destinations',
    'Each output is centre plus in plus width times its own place: even places run from −1 at out 1 to 1 at out 8, random ones are drawn once for each voice, skewed ones crowd at the low end. Unipolar places run from 0 to 1. Smooth slows every change down.',
    'Width 0…1.',
    'Spread three oscillators over pan, and the same width over their tuning.',
  ),
  front: ['in', 'centre', 'width', 'out1', 'out2', 'out3'],
  headline: ['centre', 'width'],
  inputs: [input('in', 'control')],
  outputs: [1, 2, 3, 4, 5, 6, 7, 8].map((n) => output(`out${n}`, 'control')),
  params: [
    number('centre', -1, 1, 0, ''),
    share('width', 0.5),
    choice('pattern', ['even', 'random', 'skewed']),
    seconds('smooth', 10, 0),
    choice('polarity', ['bipolar', 'unipolar']),
  ],
  picture: (context) => {
    const place = (n: number): number =>
      context.choice('pattern') === 'skewed'
        ? (n / 7) ** 2
        : context.choice('pattern') === 'random'
          ? (n * 0.618 + 0.2) % 1
          : n / 7
    return {
      kind: 'bars',
      title: 'Places of the eight outputs',
      across: 'output',
      up: 'value',
      curves: [
        {
          points: barPoints(
            Array.from(
              { length: 8 },
              (_, n) => 0.5 + (context.number('centre') + context.number('width') * (2 * place(n) - 1)) / 2,
            ),
          ),
        },
      ],
    }
  },
  state: { flushed: ['values*8'], kept: ['started'] },
  frames: 'sequential',
  cost: [200, 200, 200],
  bound: 72,
  sounds: true,
}
