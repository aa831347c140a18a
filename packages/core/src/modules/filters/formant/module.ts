import { help, input, number, output, share } from '../../../describe/helpers.ts'
import { drawn, response, RESPONSE_MARKS } from '../../../describe/pictures.ts'
import { exactPower } from '../../../units/exact.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Resonances of a spoken a, e, i, o, u: hertz, and level in dB (averages of men's voices; Peterson & Barney 1952). */
const VOWELS = [
  [
    [730, 0],
    [1090, -5],
    [2440, -22],
    [3400, -28],
  ],
  [
    [530, 0],
    [1840, -12],
    [2480, -18],
    [3400, -26],
  ],
  [
    [270, 0],
    [2290, -18],
    [3010, -22],
    [3500, -28],
  ],
  [
    [570, 0],
    [840, -6],
    [2410, -30],
    [3300, -34],
  ],
  [
    [300, 0],
    [870, -14],
    [2240, -34],
    [3300, -38],
  ],
] as const
const BANDS = 4

export const formant: ModuleDescription = {
  type: 'formant',
  family: 'filters',
  label: 'Formant',
  mark: 'M1 13c2 0 1-9 3-9s1 9 3 9 1-6 2.5-6 1 6 2.5 6 1-4 1.5-4 .5 4 1.5 4',
  words: ['vowel', 'voice', 'talk', 'vocal', 'mouth', 'choir'],
  help: help(
    'The resonances of a voice',
    'Four resonances at the places of spoken vowels: 0 a, 1 e, 2 i, 3 o, 4 u, and everything between. Size makes the head larger (down) or smaller (up); sharpness narrows the resonances.',
    'Vowel moved by an LFO or an envelope.',
    'A saw, vowel moved slowly from 0 to 3.',
  ),
  front: ['in', 'vowel', 'size', 'out'],
  headline: ['vowel', 'size'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [
    number('vowel', 0, 4, 0, ''),
    number('size', -1, 1, 0, ''),
    share('sharpness', 0.5),
    share('mix', 1),
  ],
  // Logarithms of the frequencies in octaves from 1 Hz would do; here hertz and gains, five vowels of four.
  table: () =>
    Float32Array.from(
      VOWELS.flatMap((vowel) => vowel.flatMap(([hertz, db]) => [hertz, exactPower(10, db / 20)])),
    ),
  picture: (context) => {
    const v = context.number('vowel'),
      i = Math.min(3, Math.floor(v)),
      t = v - i,
      q = 3 + 27 * context.number('sharpness') ** 2
    return {
      kind: 'line',
      title: 'Response, −48…+24 dB',
      across: 'frequency',
      up: 'level',
      marks: RESPONSE_MARKS,
      curves: [
        {
          points: response((hz) => {
            let sum = 0
            for (let n = 0; n < BANDS; n += 1) {
              const [h0, d0] = VOWELS[i]![n]!,
                [h1, d1] = VOWELS[i + 1]![n]!
              const f = h0 * (h1 / h0) ** t * 2 ** (context.number('size') * 0.6),
                w = hz / f
              sum += 10 ** ((d0 + (d1 - d0) * t) / 20) / drawn.hypot(1, q * (w - 1 / w))
            }
            return 20 * drawn.log10(sum + 1e-4)
          }),
        },
      ],
    }
  },
  state: { flushed: ['bands*8'] },
  bypass: { from: 'in', to: 'out' },
  cost: [43, 41, 41],
  // Its filters are worked out anew while anything about them moves.
  costlier: ({ isCabled }) => (['vowel', 'size', 'sharpness'].some(isCabled) ? 11 : 1),
  bound: 13,
}
