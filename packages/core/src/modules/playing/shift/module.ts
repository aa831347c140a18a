import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const shift: ModuleDescription = {
  type: 'shift',
  family: 'playing',
  label: 'Shift',
  mark: 'M2 12V9h3V6h3V3h3M9 13h5M12 11l2 2-2 2',
  words: ['transpose', 'octave', 'semitones', 'interval', 'tune'],
  help: help(
    'Moves a pitch by an exact interval',
    'Adds octaves, semitones and cents. Twelve semitones are exactly an octave, and fractions stay exactly what they are: 0.585 octaves is not 7 semitones.',
    '−2…2 octaves.',
    'Shift a second oscillator up by 7 semitones.',
  ),
  front: ['in', 'octaves', 'semitones', 'out'],
  headline: ['octaves', 'semitones'],
  inputs: [input('in', 'pitch')],
  outputs: [output('out', 'pitch')],
  params: [
    number('octaves', -5, 5, 0, 'oct', { exact: true }),
    number('semitones', -24, 24, 0, 'st', { exact: true }),
    number('cents', -100, 100, 0, 'ct', { exact: true }),
  ],
  picture: 'signal',
  frames: 'memoryless',
  cost: [0.44, 0.44, 0],
  bound: 1.8,
}
