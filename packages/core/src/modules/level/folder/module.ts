import { help, input, number, output, share } from '../../../describe/helpers.ts'
import { sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const folder: ModuleDescription = {
  type: 'folder',
  family: 'level',
  label: 'Folder',
  mark: 'M1 12l3-8 3 8 3-8 3 8 2-5',
  words: ['wave folder', 'wavefolder', 'fold', 'metallic', 'overtones'],
  help: help(
    'Folds a wave back where it would be cut',
    'The louder it is driven, the more often its peaks turn round, each fold adding overtones. Symmetry moves it off the middle for even ones. Oversampled.',
    'Folds 10…60 %, moved by an envelope.',
    'Feed it a sine and move folds.',
  ),
  front: ['in', 'folds', 'out'],
  headline: ['folds', 'symmetry'],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [share('folds', 0.3), number('symmetry', -1, 1, 0, ''), number('output', -48, 24, 0, 'dB')],
  picture: (context) => ({
    kind: 'line',
    title: 'What comes out over what comes in',
    across: 'in',
    up: 'out',
    curves: [
      {
        points: sampled((x) => {
          const u = (2 * x - 1) * (1 + 9 * context.number('folds')) + context.number('symmetry')
          const p = u - 4 * Math.round(u / 4)
          return 0.5 + (Math.abs(p) <= 1 ? p : Math.sign(p) * (2 - Math.abs(p))) / 2.2
        }),
      },
    ],
  }),
  state: { flushed: ['over*48', 'last*2', 'dc'], kept: ['gainBefore', 'biasBefore'] },
  bypass: { from: 'in', to: 'out' },
  latency: () => 3,
  cost: [180, 190, 190],
  bound: 72,
}
