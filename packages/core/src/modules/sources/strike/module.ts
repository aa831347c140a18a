import { choice, help, input, level, number, output } from '../../../describe/helpers.ts'
import { drawn, sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const strike: ModuleDescription = {
  type: 'strike',
  family: 'sources',
  label: 'Strike',
  mark: 'M3 2l7 7M10 9a3 3 0 1 0 .01 0',
  words: [
    'drum',
    'kick',
    'snare',
    'percussion',
    'exciter',
    'click',
    'hit',
    'mallet',
    'impulse',
    'pluck',
    'noise burst',
  ],
  help: help(
    'A short hit to set things ringing',
    'Click is a sharp half wave, noise a burst that dies within the length, mallet a soft push, softer when struck softly. Tone makes it darker or brighter.',
    'Length 0.5…10 ms; noise 5…80 ms.',
    'Connect it to the excite of Modes.',
  ),
  front: ['trigger', 'kind', 'length', 'out'],
  headline: ['kind', 'length'],
  inputs: [input('trigger', 'gate'), input('velocity', 'control', '1')],
  outputs: [output('out', 'audio')],
  params: [
    choice('kind', ['click', 'noise', 'mallet']),
    number('length', 0.1, 200, 3, 'ms', { log: true }),
    number('tone', -1, 1, 0, ''),
    level(),
  ],
  picture: (context) => ({
    kind: 'line',
    title: 'The hit',
    across: 'time',
    up: 'level',
    curves: [
      {
        points: sampled(
          (x) =>
            0.5 +
            0.45 *
              (context.choice('kind') === 'click'
                ? drawn.sin(Math.PI * x)
                : context.choice('kind') === 'mallet'
                  ? drawn.sin(Math.PI * x) ** 2
                  : drawn.sin(x * 997) * (1 - x)),
        ),
      },
    ],
  }),
  state: { flushed: ['tilt'], kept: ['before', 'position', 'velocity', 'count'] },
  frames: 'sequential',
  needs: [
    { any: ['trigger'], message: 'never hits: nothing is connected to its trigger. Connect notes.trigger' },
  ],
  cost: [0.77, 0.79, 0.19],
  bound: 32,
}
