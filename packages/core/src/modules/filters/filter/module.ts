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

/** Size of the low-pass response in dB, of the analogue prototype the kernel follows: 1 / (s² + 2 (1 − resonance) s + 1). */
const lowDb = (ratio: number, resonance: number): number =>
  -20 * drawn.log10(Math.max(drawn.hypot(1 - ratio ** 2, 2 * (1 - Math.min(resonance, 0.97)) * ratio), 1e-4))

export const filter: ModuleDescription = {
  type: 'filter',
  family: 'filters',
  label: 'Filter',
  mark: 'M1 5h5c3 0 3-2 4-2s2 10 5 10',
  words: [
    'low-pass',
    'vcf',
    'lowpass filter',
    'state-variable',
    'high-pass',
    'band-pass',
    'notch',
    'cutoff',
    'resonance',
    'svf',
    'darker',
    'brighter',
  ],
  help: help(
    'Low, band, high and notch at once',
    'A state-variable filter that stays stable however fast its cutoff moves. Resonance rings at the cutoff; drive saturates what comes in.',
    'Cutoff 100 Hz…5 kHz; resonance 0…60 % for tone, above 90 % to whistle.',
    'Start near 600 Hz and let an envelope open it by two octaves.',
  ),
  front: ['in', 'cutoff', 'resonance', 'drive', 'low', 'band'],
  headline: ['cutoff', 'resonance'],
  inputs: [input('in', 'audio'), input('pitch', 'pitch')],
  outputs: [
    output('low', 'audio'),
    output('band', 'audio'),
    output('high', 'audio'),
    output('notch', 'audio'),
    output('peak', 'audio'),
    output('morph', 'audio'),
  ],
  params: [
    frequency('cutoff', 1000, 16),
    share('resonance', 0.2),
    choice('slope', ['12', '24']),
    number('drive', 0, 36, 0, 'dB'),
    share('tracking', 0),
    share('morph', 0),
  ],
  picture: ({ number, choice }) => {
    const sections = choice('slope') === '24' ? 2 : 1
    return {
      kind: 'line',
      title: 'Response of low, −48…+24 dB',
      across: 'frequency',
      up: 'level',
      curves: [{ points: response((hz) => sections * lowDb(hz / number('cutoff'), number('resonance'))) }],
      marks: RESPONSE_MARKS,
    }
  },
  handles: ({ number, choice }) => {
    const sections = choice('slope') === '24' ? 2 : 1
    return [
      {
        name: 'Cutoff and resonance',
        at: [responseX(number('cutoff')), responseY(sections * lowDb(1, number('resonance')))],
        shows: ['cutoff', 'resonance'],
        // At the cutoff the response is 1 / (2 (1 − resonance)) for each section.
        moved: (x, y) => ({
          params: { cutoff: hertzAt(x), resonance: 1 - 10 ** (-decibelsAt(y) / sections / 20) / 2 },
        }),
      },
    ]
  },
  state: {
    flushed: ['one', 'two', 'second*12', 'driven*51'],
    kept: ['setCutoff', 'setResonance', 'keptG', 'keptA1', 'keptK', 'only'],
  },
  bypass: { from: 'in', to: 'low' },
  // At low frequencies a section holds back by k / (2 g) samples.
  delay: (context, output) => {
    if (output !== 'low') return 0
    const g = drawn.tan(
      (Math.PI * Math.min(context.number('cutoff'), 0.49 * context.sampleRate)) / context.sampleRate,
    )
    const sections = context.choice('slope') === '24' ? 2 : 1
    return (sections * (1 - context.number('resonance'))) / g
  },
  cost: [16, 16, 16],
  costlier: ({ number, choice, isCabled }) =>
    1 +
    (isCabled('cutoff') || isCabled('resonance') || number('tracking') > 0 ? 3.3 : 0) +
    (choice('slope') === '24' ? 0.6 : 0) +
    (number('drive') > 0 || isCabled('drive') ? 8 : 0),
  bound: 4.6,
}
