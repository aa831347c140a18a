import { choice, help, input, level, number, output, share } from '../../../describe/helpers.ts'
import { LEVELS, numbersOf, RATIOS_SHOWN } from '../../../describe/lists.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import { own } from '../../../units/own.ts'

const MOST = 32

/** Zeros of cos x · cosh x = 1, free at both ends: the squares of (2n + 1) π/2, the first five from the textbook (Fletcher & Rossing). */
const BAR = Array.from({ length: MOST }, (_, n) => {
  const x =
    [4.730040745, 7.853204624, 10.99560784, 14.13716549, 17.27875966][n] ??
    ((2 * n + 3) * 3.141592653589793) / 2
  return (x * x) / (4.730040745 * 4.730040745)
})
/** Zeros of the Bessel functions J_m in ascending order (Abramowitz & Stegun, table 9.5). */
const BESSEL = [
  2.404825558, 3.83170597, 5.135622302, 5.52007811, 6.380161896, 7.01558667, 7.588342435, 8.41724414,
  8.653727913, 8.771483816, 9.76102313, 9.936109524, 10.17346814, 11.06470949, 11.08637002, 11.61984117,
  11.79153444, 12.22509226, 12.3386042, 13.01520072, 13.32369194, 13.35430048, 13.58929017, 14.37253667,
  14.47550069, 14.79595178, 14.82126873, 14.93091771, 15.58984788, 15.70017408, 16.03777419, 16.22346616,
]
const MEMBRANE = BESSEL.map((zero) => zero / BESSEL[0]!)
/** A simply supported plate of sides 1 : 1.3: m² + n² / 1.69. */
const PLATE = Array.from({ length: 12 }, (_, m) =>
  Array.from({ length: 12 }, (_unused, n) => (m + 1) ** 2 + (n + 1) ** 2 / 1.69),
)
  .flat()
  .sort((a, b) => a - b)
  .slice(0, MOST)
  .map((x) => x / (1 + 1 / 1.69))
/** A tuned church bell: hum, prime, tierce, quint, nominal and what follows (Rossing & Perrin 1987), then a row of growing steps. */
const BELL_FIRST = [0.5, 1, 1.183, 1.506, 2, 2.514, 2.662, 3.011, 4.166, 5.433, 6.796, 8.215]
const BELL = Array.from({ length: MOST }, (_, n) => BELL_FIRST[n] ?? 8.215 + (n - 11) * 1.46)

const RATIOS: Readonly<Record<string, readonly number[]>> = {
  bar: BAR,
  membrane: MEMBRANE,
  plate: PLATE,
  bell: BELL,
}
/** How fast the upper modes of a body die against the lowest: wood and skin quickly, metal slowly. */
const LOSS: Readonly<Record<string, number>> = { bar: 0.35, membrane: 0.9, plate: 0.25, bell: 0.18, own: 0 }
const MODELS = ['bar', 'membrane', 'plate', 'bell', 'own']

/** How long modes ring, as a factor of the decay. */
const DECAYS = { min: 0, max: 2, unit: '', grain: 0.01, zero: 0 } as const

export const modes: ModuleDescription = {
  type: 'modes',
  family: 'sources',
  label: 'Modes',
  mark: 'M1 8c2-6 4-6 7 0s5 6 7 0M1 8c2 6 4 6 7 0s5-6 7 0',
  words: [
    'struck',
    'resonator',
    'drum body',
    'percussion',
    'bell',
    'marimba',
    'drum',
    'plate',
    'physical model',
    'inharmonic',
    'body',
  ],
  help: help(
    'A struck body as a bank of ringing modes',
    'Bar, membrane, plate and bell ring at their textbook ratios, own at yours. A trigger strikes it; anything at excite drives it. Decay is that of the lowest mode, the upper ones die sooner as in the real thing. Tone shifts the weight between low and high modes, spread scatters them a little, differently in each voice.',
    'Count 8…24, decay 0.2…6 s.',
    'Bar, count 8, decay 0.8 s, struck by a mallet.',
  ),
  front: ['pitch', 'trigger', 'model', 'decay', 'out'],
  headline: ['model', 'decay'],
  inputs: [input('pitch', 'pitch'), input('excite', 'audio'), input('trigger', 'gate')],
  outputs: [output('out', 'audio', 1)],
  params: [
    choice('model', MODELS),
    number('count', 1, MOST, 16, '', { whole: true, exact: true }),
    number('decay', 0.01, 60, 2, 's', { log: true }),
    number('tone', -1, 1, 0, ''),
    share('spread', 0),
    level(),
  ],
  editor: {
    kind: 'rows',
    entry: 'mode',
    length: 'count',
    spectrum: { levels: 'levels', ratios: 'ratios', series: ['model', 'own', 'own'] },
  },
  data: [
    {
      name: 'ratios',
      kind: 'numbers',
      length: MOST,
      min: 0.01,
      max: 1000,
      default: [],
      rest: 'place',
      shown: RATIOS_SHOWN,
    },
    { name: 'levels', kind: 'numbers', length: MOST, min: 0, max: 4, default: [], rest: 1, shown: LEVELS },
    {
      name: 'decays',
      kind: 'numbers',
      length: MOST,
      min: 0.001,
      max: 10,
      default: [],
      rest: 1,
      shown: DECAYS,
    },
  ],
  // Ratios, levels and decays of the five models, 32 each.
  table: (context) => {
    const ratios = numbersOf(context.data('ratios'), MOST, -1).map((x, i) => (x > 0 ? x : i + 1)),
      levels = numbersOf(context.data('levels'), MOST, 1),
      decays = numbersOf(context.data('decays'), MOST, 1)
    return Float32Array.from(
      MODELS.flatMap((model) => {
        const isOwn = model === 'own',
          list = isOwn ? ratios : own(RATIOS, model)!
        return [
          ...list,
          ...(isOwn ? levels : list.map(() => 1)),
          ...list.map((ratio, i) =>
            isOwn ? decays[i]! : 1 / (1 + own(LOSS, model)! * Math.max(0, ratio - 1)),
          ),
        ]
      }),
    )
  },
  picture: (context) => {
    const list = (
      context.choice('model') === 'own'
        ? numbersOf(context.data('ratios'), MOST, 1)
        : own(RATIOS, context.choice('model'))!
    ).slice(0, context.number('count'))
    const most = Math.max(...list, 1)
    return {
      kind: 'line',
      title: 'Where the modes lie, and how long they ring',
      across: 'ratio',
      up: 'decay',
      curves: list.map((ratio) => ({
        points: [
          [ratio / most, 0],
          [ratio / most, 1 / (1 + (own(LOSS, context.choice('model')) ?? 0) * Math.max(0, ratio - 1))],
        ] as const,
      })),
    }
  },
  shape: { sides: 1 },
  state: {
    flushed: ['re*32', 'im*32'],
    kept: [
      'turns*64',
      'gains*32',
      'drives*64',
      'before',
      'struck',
      'keyPitch',
      'keyDecay',
      'keyTone',
      'keySpread',
      'keyCount',
      'keyModel',
    ],
  },
  needs: [
    { any: ['trigger', 'excite'], message: 'is never struck: connect a trigger, or a sound to excite' },
  ],
  cost: [80, 310, 310],
  costlier: ({ number }) => Math.max(0.2, number('count') / 16),
  bound: 110,
}
