import { choice, help, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const value: ModuleDescription = {
  type: 'value',
  family: 'sources',
  label: 'Value',
  mark: 'M3 8h10M3 5v6M13 5v6M8 6v4',
  picture: 'signal',
  part: 'value',
  words: ['constant', 'number', 'slider', 'offset', 'fixed note', 'knob'],
  help: help(
    'One number, by hand',
    'Gives the number set, changing on the exact sample. The unit says how it is meant: semitones and note numbers come out as octaves, so 7 semitones is exactly 7/12; 0.585 octaves stays exactly that.',
    '−1…1 for control, −24…24 semitones for pitch.',
    'Connect it to several parameters that should move together.',
  ),
  front: ['value', 'out'],
  headline: ['value'],
  stays: 'all',
  inputs: [],
  outputs: [output('out', 'control')],
  params: [
    number('value', -100000, 100000, 0, '', { exact: true }),
    number('low', -100000, 100000, -1, '', { exact: true }),
    number('high', -100000, 100000, 1, '', { exact: true }),
    choice('unit', ['number', 'octaves', 'semitones', 'note']),
  ],
  frames: 'memoryless',
  cost: [0.41, 0.41, 0.0029],
  bound: 2.1,
  sounds: true,
}
