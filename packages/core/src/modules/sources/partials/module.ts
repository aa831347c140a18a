import { choice, frequency, help, input, level, number, output, share } from '../../../describe/helpers.ts'
import { LEVELS, numbersOf, RATIOS_SHOWN } from '../../../describe/lists.ts'
import { barPoints, drawn } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

const MOST = 64

export const partials: ModuleDescription = {
  type: 'partials',
  family: 'sources',
  label: 'Partials',
  mark: 'M1 14h14M2 14V2M5 14V7M8 14V9M11 14v-4M14 14v-2',
  words: ['additive', 'harmonics', 'overtones', 'sines', 'organ', 'inharmonic', 'bank'],
  help: help(
    'Up to 64 sine partials, each with its own level and movement',
    'The series says where they lie: harmonic, odd only, stretched like a stiff string, a power of their number, or your own ratios. Tilt makes the upper ones quieter. Motion moves the level of each by a slow wave of its own, each at the rate of the one before times the ratio. Odd and even partials also come out apart. The level stays about the same whatever count and tilt are.',
    'Count 8…32, tilt −3…−12 dB/oct, motion 20…60 %.',
    'Count 24, tilt −6, motion 40 % at 0.2 Hz, ratio 1.02.',
  ),
  front: ['pitch', 'count', 'tilt', 'motion', 'out'],
  headline: ['count', 'tilt'],
  inputs: [input('pitch', 'pitch'), input('reset', 'gate')],
  outputs: [output('out', 'audio', 1), output('odd', 'audio', 1), output('even', 'audio', 1)],
  params: [
    number('count', 1, MOST, 16, '', { whole: true, exact: true }),
    choice('series', ['harmonic', 'odd', 'stretched', 'power', 'own']),
    number('stretch', -1, 1, 0, ''),
    number('tilt', -24, 0, -6, 'dB/oct'),
    share('motion', 0),
    frequency('motionRate', 0.2, 0.001, 20),
    { ...frequency('motionRatio', 1.02, 0.05, 20), unit: '' as const },
    level(),
  ],
  editor: {
    kind: 'rows',
    entry: 'partial',
    length: 'count',
    spectrum: { levels: 'levels', ratios: 'ratios', series: ['series', 'harmonic', 'own'], flat: 'tilt' },
  },
  data: [
    { name: 'levels', kind: 'numbers', length: MOST, min: 0, max: 4, default: [], rest: 1, shown: LEVELS },
    { name: 'on', kind: 'booleans', length: MOST, default: [], rest: true },
    {
      name: 'ratios',
      kind: 'numbers',
      length: MOST,
      min: 0,
      max: 1000,
      default: [],
      rest: 'place',
      shown: RATIOS_SHOWN,
    },
  ],
  // Level (0 when off) and own ratio of each partial.
  table: (context) => {
    const levels = numbersOf(context.data('levels'), MOST, 1),
      on = numbersOf(context.data('on'), MOST, 1),
      ratios = numbersOf(context.data('ratios'), MOST, -1)
    return Float32Array.from([
      ...levels.map((x, i) => (on[i]! > 0.5 ? x : 0)),
      ...ratios.map((x, i) => (x < 0 ? i + 1 : x)),
    ])
  },
  picture: (context) => {
    const levels = numbersOf(context.data('levels'), MOST, 1),
      on = numbersOf(context.data('on'), MOST, 1)
    return {
      kind: 'bars',
      title: 'Levels of the partials, −60…0 dB',
      across: 'partial',
      up: 'level',
      curves: [
        {
          points: barPoints(
            Array.from({ length: context.number('count') }, (_, i) =>
              on[i]! > 0.5 && levels[i]! > 0
                ? 1 + (context.number('tilt') * drawn.log2(i + 1) + 20 * drawn.log10(levels[i]!)) / 60
                : 0,
            ),
          ),
        },
      ],
    }
  },
  shape: { sides: 1 },
  state: {
    kept: [
      'phases*64',
      'lows*64',
      'cosines*64',
      'sines*64',
      'gains*64',
      'steps*64',
      'motions*64',
      'motionLows*64',
      'turns*128',
      'origin',
      'resetBefore',
      'heardStretch',
      'stepHighs*64',
      'stepLows*64',
      'elapsed',
      'started',
      'counts',
      'heard',
    ],
  },
  cost: [200, 690, 690],
  costlier: ({ number }) => 0.8 + 0.0125 * number('count'),
  bound: 220,
  sounds: true,
}
