import { help, input, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const logic: ModuleDescription = {
  type: 'logic',
  family: 'routing',
  label: 'Logic',
  mark: 'M3 3h4a5 5 0 0 1 0 10H3zM1 6h2M1 10h2M12 8h3',
  words: ['and', 'or', 'xor', 'not', 'flip-flop', 'toggle', 'boolean'],
  help: help(
    'Gates combined',
    'And, or and exclusive or of two gates, not of the first, and a flip that changes over at every rise of a.',
    'None.',
    'Combine two Euclidean rhythms with xor.',
  ),
  front: ['a', 'b', 'and', 'or', 'flip'],
  headline: [],
  inputs: [input('a', 'gate'), input('b', 'gate')],
  outputs: ['and', 'or', 'xor', 'not', 'flip'].map((name) => output(name, 'gate')),
  params: [],
  picture: 'signal',
  state: { kept: ['before', 'flipped'] },
  frames: 'sequential',
  cost: [0.86, 0.86, 0],
  bound: 3.5,
  sounds: true,
}
