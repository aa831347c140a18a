import { help, level, number, output, per } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const noise: ModuleDescription = {
  type: 'noise',
  family: 'sources',
  label: 'Noise',
  mark: 'M1 8l2-5 2 9 2-7 2 5 2-8 2 9 2-4',
  words: [
    'hiss',
    'white',
    'noise generator',
    'pink',
    'brown',
    'blue',
    'dust',
    'random',
    'wind',
    'breath',
    'crackle',
  ],
  help: help(
    'Five colours of noise and random clicks',
    'White is even over all frequencies, pink falls 3 dB an octave, brown 6 dB, blue rises 3 dB. Dust is single random clicks. Every voice has its own noise, the same again each time the patch starts.',
    'Density 1…50 /s for drips and crackle, 1000 /s and more for rough noise.',
    'Take pink into a band-pass filter for wind.',
  ),
  front: ['white', 'pink'],
  inputs: [],
  outputs: [
    output('white', 'audio'),
    output('pink', 'audio'),
    output('brown', 'audio'),
    output('blue', 'audio'),
    output('dust', 'audio'),
  ],
  params: [number('density', 0.1, 10000, 100, '/s', { log: true }), level(), per],
  shape: { perVoice: { without: [] } },
  state: { flushed: ['pink*11', 'brown', 'blue*11'], kept: ['counter'] },
  bounded: true,
  cost: [55, 53, 53],
  bound: 23,
  sounds: true,
}
