import { help, input, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const meter: ModuleDescription = {
  type: 'meter',
  family: 'looking',
  label: 'Meter',
  mark: 'M2 12a6 6 0 0 1 12 0M8 12l3-5',
  picture: 'signal',
  part: 'listener',
  words: ['level', 'loudness', 'peak', 'decibel', 'look'],
  help: help(
    'Shows the level of what passes through',
    'What comes in goes out unchanged; the card shows its level.',
    'None.',
    'Put it in front of a drive to see how hard it works.',
  ),
  front: ['in', 'out'],
  headline: [],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [],
  frames: 'memoryless',
  bypass: { from: 'in', to: 'out' },
  cost: [2.7, 2.7, 2.1],
  bound: 1,
}
