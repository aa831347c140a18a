import { help, input, number, output } from '../../../describe/helpers.ts'
import { barPoints } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

const DEFAULTS = [4, 7, 11, 14, 17, 21, 24]

export const chord: ModuleDescription = {
  type: 'chord',
  family: 'playing',
  label: 'Chord',
  mark: 'M4 3h6M4 6h6M4 9h6M4 12h6M13 3v9',
  words: ['intervals', 'harmony', 'voicing', 'inversion', 'triad'],
  help: help(
    'One pitch becomes a chord',
    'One voice for each note: the pitch itself, then pitch plus each interval. Inversion puts the lowest notes an octave up, spread opens the chord over so many octaves.',
    '3…4 notes, intervals 3, 4 or 7 semitones.',
    'Set 3, 7 and 10 for a minor seventh.',
  ),
  front: ['pitch', 'notes', 'inversion'],
  headline: ['notes', 'inversion'],
  stays: ['inversion'],
  inputs: [input('pitch', 'pitch')],
  outputs: [{ ...output('pitch', 'pitch'), label: 'pitch' }, output('scatter', 'control')],
  params: [
    number('notes', 1, 8, 3, '', { setOnly: true, whole: true }),
    ...DEFAULTS.map((interval, n) => number(`interval${n + 2}`, -24, 24, interval, 'st', { exact: true })),
    number('inversion', 0, 7, 0, '', { whole: true, exact: true }),
    number('spread', 0, 3, 0, 'oct', { exact: true }),
  ],
  picture: (context) => ({
    kind: 'bars',
    title: 'Semitones above the pitch',
    across: 'note',
    up: 'semitones',
    curves: [
      {
        points: barPoints(
          Array.from(
            { length: context.number('notes') },
            (_, n) => 0.5 + (n === 0 ? 0 : context.number(`interval${n + 1}`)) / 48,
          ),
        ),
      },
    ],
  }),
  shape: { voices: (context) => context.number('notes') },
  frames: 'memoryless',
  cost: [1.3, 1.3, 0],
  bound: 70,
  sounds: true,
}
