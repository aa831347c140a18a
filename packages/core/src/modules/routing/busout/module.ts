import { help, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const busout: ModuleDescription = {
  type: 'busout',
  family: 'routing',
  label: 'Bus out',
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
  inputs: [],
  outputs: [output('out', 'audio')],
  params: [{ kind: 'text', name: 'bus', label: 'Bus', default: 'bus', setOnly: true }],
  bound: 1,
}
