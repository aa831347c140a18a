import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const copy: ModuleDescription = {
  type: 'copy',
  family: 'routing',
  label: 'Copy',
  mark: 'M2 2h8v8H2zM6 10v4h8V6h-4',
  words: ['voices', 'one to many', 'multiple', 'mult', 'polyphony', 'spread'],
  help: help(
    'One voice becomes several',
    'Copies what comes in to the number of voices set. Behind it everything runs once per voice, random sources each with their own values.',
    '2…16 voices.',
    'Put it between an LFO and a Chance to let every voice decide by itself.',
  ),
  front: ['in', 'voices', 'out'],
  headline: ['voices'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [number('voices', 1, 16, 4, '', { setOnly: true, whole: true })],
  picture: 'signal',
  shape: { voices: (context) => context.number('voices') },
  frames: 'memoryless',
  cost: [3.4, 3.9, 0.85],
  bound: 27,
}
