import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const stack: ModuleDescription = {
  type: 'stack',
  family: 'routing',
  label: 'Stack',
  mark: 'M2 5l6-3 6 3-6 3zM2 8l6 3 6-3M2 11l6 3 6-3',
  words: ['voices', 'cables to voices', 'chord', 'combine'],
  help: help(
    'Single cables become the voices of one',
    'Voice 1 is what comes in at in 1, voice 2 at in 2 and so on. Voices beyond the eight inputs are silent.',
    '2…8 voices.',
    'Stack three values into a chord.',
  ),
  front: ['voices', 'in1', 'in2', 'out'],
  headline: ['voices'],
  inputs: [1, 2, 3, 4, 5, 6, 7, 8].map((n) => input(`in${n}`, 'audio')),
  outputs: [output('out', 'audio')],
  params: [number('voices', 1, 16, 2, '', { setOnly: true, whole: true })],
  adds: true,
  picture: 'signal',
  shape: { voices: (context) => context.number('voices') },
  frames: 'memoryless',
  cost: [31, 31, 0],
  bound: 93,
}
