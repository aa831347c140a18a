import { choice, help, input, number, output } from '../../../describe/helpers.ts'
import { ringFrames } from '../../../describe/rings.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const allpass: ModuleDescription = {
  type: 'allpass',
  family: 'filters',
  label: 'All-pass',
  mark: 'M1 8h4M11 8h4M5 4h6v8H5zM7 10l2-4',
  words: ['schroeder', 'diffusion', 'all-pass', 'phase shifter', 'reverb', 'echo density', 'phase', 'nested'],
  help: help(
    'Smears a sound in time without colouring it',
    'Everything passes at its level, spread over echoes that get closer the more of these stand in a row (Schroeder 1962). What leaves its delay goes out at send and comes back at return: put another one between them to nest it.',
    'Time 5…80 ms, gain 0.5…0.75.',
    'Four in a row at 7, 11, 17 and 29 ms.',
  ),
  front: ['in', 'time', 'gain', 'out'],
  headline: ['time', 'gain'],
  inputs: [input('in', 'audio'), input('pitch', 'pitch'), input('return', 'audio', 'send')],
  outputs: [output('out', 'audio'), output('send', 'audio')],
  params: [
    choice('unit', ['ms', 'samples', 'pitch'], 'ms', { setOnly: true }),
    number('time', 0, 2000, 30, 'ms', {
      time: true,
      exact: true,
      follows: { choice: 'unit', ranges: { samples: { min: 0, max: 2000, unit: 'samples' } } },
    }),
    number('gain', -1, 1, 0.7, '', {
      help: 'The direct sound comes out by as much: out = gain × v + what comes back, v = in − gain × what comes back. Positive gain keeps its sign.',
    }),
    choice('interpolation', ['none', 'linear', 'cosine', 'cubic', 'spline', 'allpass'], 'cubic', {
      setOnly: true,
    }),
  ],
  picture: (context) => {
    const g = context.number('gain')
    return {
      kind: 'bars',
      title: 'Echoes of a click',
      across: 'multiples of the time',
      up: 'size',
      curves: [
        {
          points: Array.from(
            { length: 8 },
            (_, n) => [(n + 0.5) / 8, n === 0 ? Math.abs(g) : (1 - g * g) * Math.abs(g) ** (n - 1)] as const,
          ),
        },
      ],
    }
  },
  stages: [
    { name: 'read', reads: ['pitch', 'time'], writes: ['send'], reportsDelay: true },
    { name: 'write', reads: ['in', 'return', 'gain'], writes: ['out'] },
  ],
  state: { flushed: ['interpolated'] },
  memory: (context, voices, sides) => Math.ceil((voices * sides) / 4) * 16 * ringFrames(context, 2),
  bypass: { from: 'in', to: 'out' },
  // Of a delay D at low frequencies D (1 - g) / (1 + g) is left.
  delay: (context) => {
    const unit = context.choice('unit'),
      g = Math.max(-0.999, context.number('gain'))
    if (unit === 'pitch') return undefined
    const time = context.number('time') * (unit === 'samples' ? 1 : context.sampleRate / 1000)
    return (Math.max(1, time) * (1 - g)) / (1 + g)
  },
  cost: [51, 50, 51],
  bound: 18,
}
