import { choice, help, input, output, seconds, toggle } from '../../../describe/helpers.ts'
import { sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const glide: ModuleDescription = {
  type: 'glide',
  family: 'playing',
  label: 'Glide',
  mark: 'M1 12h4l6-8h4',
  words: ['slew limiter', 'slew', 'lag', 'portamento', 'smooth', 'slide'],
  help: help(
    'Slows a signal down',
    'Linear moves one unit (for pitches an octave) in the time set; exponential comes within 1 % of where it goes in that time, whatever the distance. Linked, fall follows rise. With a cable at gate it glides only while that is on and jumps otherwise.',
    '20…300 ms for pitches, seconds for slow movement.',
    'Put it behind a step sequence.',
  ),
  front: ['in', 'rise', 'fall', 'out'],
  headline: ['rise', 'fall'],
  inputs: [input('in', 'control'), input('gate', 'gate', 'on')],
  outputs: [output('out', 'control')],
  params: [
    seconds('rise', 10, 0.1),
    seconds('fall', 10, 0.1),
    choice('curve', ['linear', 'exponential']),
    toggle('link', true),
  ],
  picture: (context) => ({
    kind: 'line',
    title: 'How it follows a step',
    across: 'time',
    up: 'out',
    curves: [
      {
        points: sampled((x) =>
          context.choice('curve') === 'linear' ? Math.min(1, x * 1.5) : 1 - 0.01 ** (x * 1.5),
        ),
      },
    ],
  }),
  state: { flushed: ['distance'], kept: ['before', 'started'] },
  frames: 'sequential',
  cost: [21, 22, 22],
  bound: 8.4,
}
