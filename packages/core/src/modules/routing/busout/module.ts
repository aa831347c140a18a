import { help, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const busout: ModuleDescription = {
  type: 'busout',
  family: 'routing',
  label: 'Bus out',
  mark: 'M8 8h7M12 5l3 3-3 3M2 2v12M5 2v12',
  picture: 'signal',
  part: 'receive',
  words: ['receive', 'named bus', 'from bus'],
  flattened: true,
  help: help(
    'Reads a named bus',
    'Gives the sum of everything written to the bus of this name.',
    'Short names: "verb", "drums".',
    'Use the name of a Bus in.',
  ),
  front: ['bus', 'out'],
  headline: ['bus'],
  inputs: [],
  outputs: [output('out', 'audio')],
  params: [{ kind: 'text', name: 'bus', label: 'Bus', default: 'bus', setOnly: true }],
  bound: 1,
}
