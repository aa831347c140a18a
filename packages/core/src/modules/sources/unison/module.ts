import { choice, help, input, level, number, output, share, tuning } from '../../../describe/helpers.ts'
import { barPoints } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const unison: ModuleDescription = {
  type: 'unison',
  family: 'sources',
  label: 'Unison',
  mark: 'M1 6c2-5 5-5 7 0s5 5 7 0M1 10c2-5 5-5 7 0s5 5 7 0',
  words: [
    'supersaw',
    'super saw',
    'detuned saws',
    'hypersaw',
    'detuned',
    'wide',
    'thick',
    'chorus',
    'stack of oscillators',
    'copies',
  ],
  help: help(
    'Up to sixteen detuned copies in one',
    'Copies lie evenly within ± detune, spread between left and right; blend sets how loud the outer ones are against the middle. Each starts at its own phase. The level stays about the same for any number.',
    'Copies 5…9, detune 10…30 ct, spread 50…100 %.',
    'Seven saws, detune 18 ct.',
  ),
  front: ['pitch', 'copies', 'detune', 'spread', 'out'],
  headline: ['copies', 'detune'],
  inputs: [input('pitch', 'pitch'), input('phase', 'control'), input('reset', 'gate')],
  outputs: [output('out', 'audio', 2)],
  params: [
    number('copies', 1, 16, 7, '', { setOnly: true, whole: true }),
    number('detune', 0, 100, 18, 'ct'),
    share('spread', 0.6),
    share('blend', 0.7),
    choice('shape', ['saw', 'pulse', 'triangle', 'sine']),
    share('width', 0.5, 0.01, 0.99),
    ...tuning,
    level(),
  ],
  picture: (context) => {
    const copies = context.number('copies')
    return {
      kind: 'bars',
      title: 'Levels of the copies, low to high',
      across: 'tuning',
      up: 'level',
      curves: [
        {
          points: barPoints(
            Array.from({ length: copies }, (_, i) =>
              Math.abs(i - (copies - 1) / 2) < 0.75 ? 1 : context.number('blend'),
            ),
          ),
        },
      ],
    }
  },
  shape: { sides: 2 },
  state: { kept: ['phases*8', 'lows*8', 'started', 'resetBefore'] },
  cost: [145, 145, 145],
  costlier: ({ number }) => 0.6 + 0.057 * number('copies'),
  bound: 57,
  sounds: true,
}
