import { choice, frequency, help, input, number, output, share } from '../../../describe/helpers.ts'
import {
  decibelsAt,
  drawn,
  hertzAt,
  response,
  RESPONSE_MARKS,
  responseX,
  responseY,
} from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** More resonance than this is drawn as this: the response would leave the picture. */
const MOST_DRAWN = 0.97

/** Size of the small-signal response in dB, from the analogue prototype. */
const responseDb = (hz: number, cutoff: number, resonance: number, poles: number, mode: string): number => {
  const w = hz / cutoff,
    k = 4 * resonance
  // One pole: 1 / (1 + jw). Powers of it as complex numbers.
  const pole: [number, number] = [1 / (1 + w * w), -w / (1 + w * w)]
  const times = (a: [number, number], b: [number, number]): [number, number] => [
    a[0] * b[0] - a[1] * b[1],
    a[0] * b[1] + a[1] * b[0],
  ]
  const powers: [number, number][] = [[1, 0]]
  for (let n = 1; n <= 4; n += 1) powers.push(times(powers[n - 1]!, pole))
  const under: [number, number] = [1 + k * powers[4]![0], k * powers[4]![1]]
  const high: [number, number] = [1 - pole[0], -pole[1]]
  let over = powers[poles]!
  if (mode === 'high') {
    over = [1, 0]
    for (let n = 0; n < poles; n += 1) over = times(over, high)
  }
  if (mode === 'band') {
    const half = Math.max(1, poles / 2)
    over = [2 ** half, 0]
    for (let n = 0; n < half; n += 1) over = times(times(over, high), pole)
  }
  return 20 * drawn.log10(((1 + 0.5 * k) * drawn.hypot(...over)) / Math.max(drawn.hypot(...under), 0.03))
}

export const ladder: ModuleDescription = {
  type: 'ladder',
  family: 'filters',
  label: 'Ladder',
  mark: 'M4 2v12M12 2v12M4 5h8M4 8h8M4 11h8',
  words: ['low-pass', 'resonance', 'self-oscillation', 'fat', 'saturating', 'four poles', 'whistle'],
  help: help(
    'A filter that saturates and sings',
    'Four poles in a row with feedback through a soft limit: it grows thick when driven and, from a resonance of 100 %, keeps whistling at its cutoff, in tune, once something has struck it. Slope says after how many poles it is heard.',
    'Cutoff 80 Hz…4 kHz, resonance 20…80 %, drive 0…12 dB.',
    'A saw, cutoff 300 Hz, an envelope of three octaves.',
  ),
  front: ['in', 'cutoff', 'resonance', 'drive', 'out'],
  headline: ['cutoff', 'resonance'],
  inputs: [input('in', 'audio'), input('pitch', 'pitch')],
  outputs: [output('out', 'audio')],
  params: [
    frequency('cutoff', 1000, 16),
    share('resonance', 0.2, 0, 1.1),
    choice('slope', ['6', '12', '18', '24'], '24'),
    choice('mode', ['low', 'band', 'high']),
    number('drive', 0, 36, 0, 'dB'),
    share('tracking', 0),
  ],
  picture: (context) => ({
    kind: 'line',
    title: 'Response, −48…+24 dB',
    across: 'frequency',
    up: 'level',
    curves: [
      {
        points: response((hz) =>
          responseDb(
            hz,
            context.number('cutoff'),
            Math.min(context.number('resonance'), 0.995),
            Number(context.choice('slope')) / 6,
            context.choice('mode'),
          ),
        ),
      },
    ],
    marks: RESPONSE_MARKS,
  }),
  handles: ({ number, choice }) => {
    const cutoff = number('cutoff'),
      dbWith = (resonance: number): number =>
        responseDb(cutoff, cutoff, resonance, Number(choice('slope')) / 6, choice('mode'))
    return [
      {
        name: 'Cutoff and resonance',
        at: [responseX(cutoff), responseY(dbWith(Math.min(number('resonance'), MOST_DRAWN)))],
        shows: ['cutoff', 'resonance'],
        // At the cutoff four poles turn the phase by 180°: resonance r makes it (1 + 2 r) / (1 − r) times what it is at 0.
        moved: (x, y) => {
          const times = 10 ** ((decibelsAt(y) - dbWith(0)) / 20)
          return { params: { cutoff: hertzAt(x), resonance: Math.max(0, (times - 1) / (times + 2)) } }
        },
      },
    ]
  },
  state: { flushed: ['s1', 's2', 's3', 's4', 'fed', 'driven*51'] },
  bypass: { from: 'in', to: 'out' },
  // Each pole of an output holds back by 1 / (2 g) samples; feedback k takes off 4 k / (1 + k) of such.
  delay: (context) => {
    if (context.choice('mode') !== 'low') return 0
    const g = drawn.tan(
      (Math.PI * Math.min(context.number('cutoff'), 0.49 * context.sampleRate)) / context.sampleRate,
    )
    const poles = Number(context.choice('slope')) / 6,
      fed = 4 * context.number('resonance')
    return (poles - (4 * fed) / (1 + fed)) / (2 * g)
  },
  cost: [190, 190, 190],
  costlier: ({ number, isCabled }) => (number('drive') > 0 || isCabled('drive') ? 2.1 : 1),
  bound: 69,
}
