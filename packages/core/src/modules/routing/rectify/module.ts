import { help, input, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const rectify: ModuleDescription = {
  type: 'rectify',
  family: 'routing',
  label: 'Rectify',
  mark: 'M1 12c2-10 5-10 7 0 2-10 5-10 7 0',
  words: ['absolute', 'half wave', 'full wave', 'positive', 'negative'],
  help: help(
    'Folds a signal at zero, or takes one half of it',
    'Full is the size without sign, positive what is above zero, negative what is below it. For sounds the Drive module does the same without aliasing.',
    'None.',
    'Rectify an LFO to make it bounce.',
  ),
  front: ['in', 'full', 'positive'],
  headline: [],
  inputs: [input('in', 'control')],
  outputs: ['full', 'positive', 'negative'].map((name) => output(name, 'control')),
  params: [],
  picture: 'signal',
  frames: 'memoryless',
  cost: [8.9, 8.9, 7.8],
  bound: 3.2,
}
