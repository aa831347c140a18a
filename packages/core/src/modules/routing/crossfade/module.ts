import { choice, help, input, number, output } from '../../../describe/helpers.ts'
import { drawn, sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'
import { own } from '../../../units/own.ts'

const GAINS: Readonly<Record<string, (t: number) => number>> = {
  linear: (t) => t,
  equal: (t) => drawn.sin((Math.PI / 2) * t),
  full: (t) => Math.min(1, 2 * t),
}

export const crossfade: ModuleDescription = {
  type: 'crossfade',
  family: 'routing',
  label: 'Crossfade',
  mark: 'M1 3c6 0 8 10 14 10M1 13c6 0 8-10 14-10',
  words: ['blend', 'morph', 'between', 'layers'],
  help: help(
    'From a to b',
    'At −1 only a, at 1 only b. Equal keeps the power of different sounds, linear the level of like ones, full has both at their full level in the middle.',
    '−1…1.',
    'Let a slow LFO move the position.',
  ),
  front: ['a', 'b', 'position', 'out'],
  headline: ['position'],
  inputs: [input('a', 'audio'), input('b', 'audio')],
  outputs: [output('out', 'audio')],
  params: [number('position', -1, 1, 0, ''), choice('law', ['linear', 'equal', 'full'], 'equal')],
  adds: true,
  picture: (context) => {
    const gain = own(GAINS, context.choice('law'))!
    return {
      kind: 'line',
      title: 'Level of a and b over the position',
      across: 'position',
      up: 'level',
      curves: [
        { name: 'a', points: sampled((x) => gain(1 - x)) },
        { name: 'b', points: sampled(gain) },
      ],
      marks: [[(context.number('position') + 1) / 2, 'now']],
    }
  },
  frames: 'memoryless',
  bypass: { from: 'a', to: 'out' },
  cost: [28, 28, 27],
  bound: 9.9,
}
