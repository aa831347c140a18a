import { help, input } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const busin: ModuleDescription = {
  type: 'busin',
  family: 'routing',
  label: 'Bus in',
  mark: 'M1 8h7M5 5l3 3-3 3M11 2v12M14 2v12',
  picture: 'signal',
  part: 'send',
  words: ['send', 'named bus', 'wireless', 'to bus'],
  flattened: true,
  help: help(
    'Writes to a named bus',
    'Everything written to one name adds up and comes out wherever that name is read, without a long cable.',
    'Short names: "verb", "drums".',
    'Give it a name and read it with Bus out.',
  ),
  front: ['in', 'bus'],
  headline: ['bus'],
  inputs: [input('in', 'audio')],
  outputs: [],
  params: [{ kind: 'text', name: 'bus', label: 'Bus', default: 'bus', setOnly: true }],
  bound: 1,
}
