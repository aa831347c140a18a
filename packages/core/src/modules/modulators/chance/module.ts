import { choice, help, input, output, share } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const chance: ModuleDescription = {
  type: 'chance',
  family: 'modulators',
  label: 'Chance',
  mark: 'M3 3h10v10H3zM5 6h2M9 10h2M9 6h2M5 10h2',
  words: ['probability', 'random gate', 'coin', 'sometimes', 'bernoulli'],
  help: help(
    'Lets some gates pass',
    'Every rise of in is thrown for: with the probability set the gate goes to hit, else to miss. Toggle throws for changing over instead. Every voice throws for itself.',
    'Probability 20…80 %.',
    'Put it between a clock and an envelope.',
  ),
  front: ['in', 'probability', 'hit', 'miss'],
  headline: ['probability'],
  inputs: [input('in', 'gate')],
  outputs: [output('hit', 'gate'), output('miss', 'gate')],
  params: [share('probability', 0.5), choice('mode', ['each', 'toggle'])],
  picture: 'signal',
  state: { kept: ['before', 'count', 'toHit', 'started'] },
  frames: 'sequential',
  cost: [0.94, 0.64, 0],
  bound: 2.8,
}
