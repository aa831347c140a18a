import {
  choice,
  frequency,
  help,
  input,
  level,
  NOTE_VALUES,
  output,
  seconds,
  share,
} from '../../../describe/helpers.ts'
import { drawn, sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** The shapes over one cycle, −1…1. */
const SHAPES = new Map<string, (x: number, width: number) => number>([
  ['sine', (x) => drawn.sin(2 * Math.PI * x)],
  ['triangle', (x) => (x < 0.25 ? 4 * x : x < 0.75 ? 2 - 4 * x : 4 * x - 4)],
  ['saw', (x) => 2 * x - 1],
  ['fall', (x) => 1 - 2 * x],
  ['square', (x, width) => (x < width ? 1 : -1)],
])

export const lfo: ModuleDescription = {
  type: 'lfo',
  family: 'modulators',
  label: 'LFO',
  mark: 'M1 8c2-7 5-7 7 0s5 7 7 0',
  words: ['low frequency', 'vibrato', 'tremolo', 'wobble', 'sweep', 'slow', 'make it wobble'],
  help: help(
    'Slow waves to move things with',
    'All shapes run from one phase. Sync ties one cycle to a note value of the transport; a rise at reset starts it over.',
    '0.05…1 Hz for slow movement, 4…7 Hz for vibrato.',
    'Connect out to a pitch or cutoff with a small amount.',
  ),
  front: ['rate', 'shape', 'out'],
  headline: ['rate', 'shape'],
  inputs: [input('reset', 'gate')],
  outputs: ['out', 'sine', 'triangle', 'saw', 'fall', 'square'].map((name) => output(name, 'control')),
  params: [
    frequency('rate', 1, 0.001, 200),
    choice('sync', ['off', ...NOTE_VALUES]),
    choice('shape', ['sine', 'triangle', 'saw', 'fall', 'square']),
    share('phase', 0),
    choice('polarity', ['bipolar', 'unipolar']),
    share('width', 0.5, 0.01, 0.99),
    seconds('fade', 20, 0),
    level(),
  ],
  picture: ({ number, choice }) => ({
    kind: 'line',
    title: 'One cycle',
    across: 'phase',
    up: 'level',
    curves: [
      {
        points: sampled((x) => {
          const wave = SHAPES.get(choice('shape'))?.((x + number('phase')) % 1, number('width')) ?? 0
          return 0.5 + 0.48 * wave * number('level')
        }),
      },
    ],
  }),
  state: { kept: ['high', 'low', 'resetBefore', 'age', 'offset', 'startsSeen'] },
  bounded: true,
  cost: [65, 64, 64],
  bound: 86,
  sounds: true,
}
