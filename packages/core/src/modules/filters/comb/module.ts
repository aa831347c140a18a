import { frequency, help, input, number, output, share } from '../../../describe/helpers.ts'
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

/** Frames of ring a lane has: down to about 6 Hz. */
const frames = (sampleRate: number): number => {
  let n = 1024
  while (n < 0.17 * sampleRate) n *= 2
  return n
}

/** What damping leaves of a round at a frequency, as it is drawn. */
const keptAt = (hz: number, damping: number): number => 1 - 0.5 * damping * Math.min(1, hz / 8000)
const LEAST_FORWARD = 0.01

export const comb: ModuleDescription = {
  type: 'comb',
  family: 'filters',
  label: 'Comb',
  mark: 'M1 13h14M3 13V4M6 13V7M9 13V4M12 13V7',
  words: ['resonator', 'metallic', 'tuned', 'tube', 'pluck'],
  help: help(
    'Peaks or notches at all multiples of a frequency',
    'Feedback makes it ring at its frequency (in tune, at lowest 6 Hz), negative feedback an octave lower with odd partials only; feedforward cuts notches. Damping makes the high ones fade first.',
    'Feedback ±50…98 %.',
    'Send noise bursts through it with tracking at 100 %.',
  ),
  front: ['in', 'frequency', 'feedback', 'out'],
  headline: ['frequency', 'feedback'],
  stays: ['frequency', 'tracking'],
  inputs: [input('in', 'audio'), input('pitch', 'pitch')],
  outputs: [output('out', 'audio')],
  params: [
    frequency('frequency', 220),
    number('feedback', -1, 1, 0.7, ''),
    number('feedforward', -1, 1, 0, ''),
    share('damping', 0.2),
    share('tracking', 0),
  ],
  picture: (context) => ({
    kind: 'line',
    title: 'Response, −48…+24 dB',
    across: 'frequency',
    up: 'level',
    curves: [
      {
        points: response((hz) => {
          const a = (2 * Math.PI * hz) / context.number('frequency')
          const b = context.number('feedback') * keptAt(hz, context.number('damping')),
            c = context.number('feedforward')
          return (
            10 *
            drawn.log10((1 + c * c + 2 * c * drawn.cos(a)) / Math.max(1e-4, 1 + b * b - 2 * b * drawn.cos(a)))
          )
        }),
      },
    ],
    marks: RESPONSE_MARKS,
  }),
  handles: ({ number }) => {
    const hz = number('frequency'),
      forward = 1 + number('feedforward')
    // Feedforward of −1 cuts a notch there, whatever comes back.
    if (forward < LEAST_FORWARD) return []
    const back = number('feedback') * keptAt(hz, number('damping'))
    return [
      {
        name: 'Frequency and feedback',
        at: [responseX(hz), responseY(20 * drawn.log10(forward / Math.max(0.01, 1 - back)))],
        shows: ['frequency', 'feedback'],
        // At its frequency what goes round comes back in step: (1 + feedforward) / (1 − feedback).
        moved: (x, y) => {
          const frequency = hertzAt(x)
          const feedback = (1 - forward / 10 ** (decibelsAt(y) / 20)) / keptAt(frequency, number('damping'))
          return { params: { frequency, feedback } }
        },
      },
    ]
  },
  state: { flushed: ['damped'], kept: ['quiet'] },
  memory: (context, voices, sides) => Math.ceil((voices * sides) / 4) * 16 * frames(context.sampleRate),
  bypass: { from: 'in', to: 'out' },
  cost: [91, 90, 90],
  bound: 34,
}
