import { choice, help, input, number, output } from '../../../describe/helpers.ts'
import { drawn, sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const pan: ModuleDescription = {
  type: 'pan',
  family: 'routing',
  label: 'Pan',
  mark: 'M1 8h14M4 5L1 8l3 3M12 5l3 3-3 3',
  words: ['stereo', 'left', 'right', 'position', 'auto-pan'],
  help: help(
    'Places a sound between left and right',
    'Equal keeps the power the same all the way (−3 dB on each side in the middle), linear keeps the sum of the sides the same (−6 dB). A stereo cable is weighed between its sides.',
    '−1…1; ±0.3 for a little width.',
    'Connect notes.scatter to pan with amount 0.4.',
  ),
  front: ['in', 'pan', 'out'],
  headline: ['pan'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio', 2)],
  params: [number('pan', -1, 1, 0, ''), choice('law', ['equal', 'linear'])],
  picture: (context) => {
    const side = (sign: number) =>
      sampled((x) =>
        context.choice('law') === 'equal'
          ? drawn.sin((Math.PI / 4) * (1 + sign * (2 * x - 1)))
          : (1 + sign * (2 * x - 1)) / 2,
      )
    return {
      kind: 'line',
      title: 'Level of both sides over the position',
      across: 'pan',
      up: 'level',
      curves: [
        { name: 'left', points: side(-1) },
        { name: 'right', points: side(1) },
      ],
      marks: [[(context.number('pan') + 1) / 2, 'now']],
    }
  },
  shape: { sides: 2 },
  frames: 'memoryless',
  bypass: { from: 'in', to: 'out' },
  cost: [18, 19, 18],
  bound: 9.9,
}
