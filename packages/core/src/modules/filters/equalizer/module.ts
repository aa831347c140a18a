import { choice, frequency, help, input, number, output, toggle } from '../../../describe/helpers.ts'
import {
  decibelsAt,
  drawn,
  hertzAt,
  response,
  RESPONSE_MARKS,
  responseX,
  responseY,
} from '../../../describe/pictures.ts'
import type { ModuleDescription, PictureContext } from '../../../describe/types.ts'

const TYPES = ['lowcut', 'lowshelf', 'bell', 'highshelf', 'highcut', 'notch'] as const
const DEFAULTS = [
  ['lowcut', 30],
  ['lowshelf', 120],
  ['bell', 500],
  ['bell', 2000],
  ['highshelf', 8000],
  ['highcut', 18000],
] as const

/** Size in dB of one band's analogue prototype. */
const bandDb = (context: PictureContext, n: number, hz: number): number => {
  const type = context.choice(`b${n}type`),
    w = hz / context.number(`b${n}freq`),
    q = context.number(`b${n}q`),
    gain = context.number(`b${n}gain`),
    a = 10 ** (gain / 40)
  const under = (damp: number, w0: number): number => (1 - (w / w0) ** 2) ** 2 + (damp * (w / w0)) ** 2
  const ratio = (over: number, below: number): number =>
    10 * drawn.log10(Math.max(over, 1e-8) / Math.max(below, 1e-8))
  if (type === 'lowcut') return ratio(w ** 4, under(1 / q, 1))
  if (type === 'highcut') return ratio(1, under(1 / q, 1))
  if (type === 'notch') return ratio((1 - w * w) ** 2, under(1 / q, 1))
  if (type === 'bell')
    return ratio((1 - w * w) ** 2 + ((a * w) / q) ** 2, (1 - w * w) ** 2 + (w / (a * q)) ** 2)
  const low = (1 - w * w * a) ** 2 + ((Math.sqrt(a) * w) / q) ** 2,
    high = (a - w * w) ** 2 + ((Math.sqrt(a) * w) / q) ** 2
  return type === 'lowshelf' ? ratio(a * a * high, a * a * low) : ratio(a * a * low, high)
}

export const equalizer: ModuleDescription = {
  type: 'equalizer',
  family: 'filters',
  label: 'Equaliser',
  mark: 'M1 8h2c1 0 1-4 3-4s2 8 4 8 2-4 3-4h2',
  words: ['equaliser', 'eq', 'parametric', 'bell', 'shelf', 'cut', 'tone', 'low cut', 'high cut'],
  help: help(
    'Six bands of tone control',
    'Each band is a low cut, low shelf, bell, high shelf, high cut or notch with frequency, gain and width (q; for shelves their steepness). A band that is off or has no gain changes nothing.',
    'Gain ±3…6 dB, q 0.5…4; for cuts q 0.7.',
    'Low cut at 30 Hz on, bell at 400 Hz −3 dB.',
  ),
  front: ['in', 'b3gain', 'b4gain', 'out'],
  headline: ['b3gain', 'b4gain'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [
    ...DEFAULTS.flatMap(([type, hertz], i) => {
      const n = i + 1,
        words = { label: `Band ${n}` }
      return [
        choice(`b${n}type`, TYPES, type, { label: `${words.label} type` }),
        frequency(`b${n}freq`, hertz, 10, 20000, { label: `${words.label} frequency` }),
        number(`b${n}gain`, -24, 24, 0, 'dB', { label: `${words.label} gain` }),
        number(`b${n}q`, 0.1, 20, 0.7071, '', { log: true, label: `${words.label} q` }),
        toggle(`b${n}on`, type !== 'lowcut' && type !== 'highcut', `${words.label} on`),
      ]
    }),
    number('output', -48, 24, 0, 'dB'),
  ],
  picture: (context) => ({
    kind: 'line',
    title: 'Response, −48…+24 dB',
    across: 'frequency',
    up: 'level',
    marks: RESPONSE_MARKS,
    curves: [
      {
        points: response((hz) =>
          [1, 2, 3, 4, 5, 6].reduce(
            (sum, n) => sum + (context.number(`b${n}on`) > 0.5 ? bandDb(context, n, hz) : 0),
            context.number('output'),
          ),
        ),
      },
    ],
  }),
  handles: ({ number: value, choice: word }) =>
    [1, 2, 3, 4, 5, 6]
      .filter((n) => value(`b${n}on`) > 0.5)
      .map((n) => {
        const hasGain = /bell|shelf/.test(word(`b${n}type`))
        return {
          name: `Band ${n}`,
          at: [responseX(value(`b${n}freq`)), responseY(hasGain ? value(`b${n}gain`) : 0)] as const,
          shows: [`b${n}freq`, ...(hasGain ? [`b${n}gain`] : [])],
          moved: (x: number, y: number) => ({
            params: { [`b${n}freq`]: hertzAt(x), ...(hasGain ? { [`b${n}gain`]: decibelsAt(y) } : {}) },
          }),
        }
      }),
  state: { flushed: ['bands*12'] },
  bypass: { from: 'in', to: 'out' },
  cost: [14, 14, 13],
  bound: 4.7,
}
